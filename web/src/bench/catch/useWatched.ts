import { useQuery } from '@tanstack/react-query'
import { answer, api, type Watched } from '../../api/client'
import { useStudio } from '../../store'

/** What was seen of a shot so far, and what is proposed of the frames that a ground item shows. */
export function useWatched(project: string, shot: string, item: string, range: string): Watched | undefined {
  const past = useStudio((s) => s.watched[shot] ?? 0)
  return useQuery({
    queryKey: ['watched', project, shot, item, range, past],
    queryFn: () =>
      answer(
        api.GET('/api/projects/{project}/shots/{shot}/watched', {
          params: { path: { project, shot }, query: { item } },
        }),
      ) as Promise<Watched>,
    placeholderData: (before, query) => (query?.queryKey[2] === shot ? before : undefined),
    staleTime: Infinity,
    gcTime: 60_000,
  }).data
}
