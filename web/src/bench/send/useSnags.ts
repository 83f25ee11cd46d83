import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import type { paths } from '../../api/schema'
import { useStudio } from '../../store'

export type Snag =
  paths['/api/projects/{project}/snags']['get']['responses']['200']['content']['application/json']['snags'][number]

/** The snags of the piece as it is now; those of a moment ago while it is looked over anew, none before it ever was. */
export function useSnags(): Snag[] | null {
  const id = useStudio((s) => s.view?.project.id)
  const revision = useStudio((s) => s.view?.revision)
  const found = useQuery({
    queryKey: ['snags', id, revision],
    queryFn: async ({ signal }) => {
      // Edits come in runs: what is looked over is what is left after them.
      await new Promise((after) => setTimeout(after, 700))
      if (signal.aborted) return []
      const path = { project: id! }
      return (await answer(api.GET('/api/projects/{project}/snags', { params: { path }, signal }))).snags
    },
    enabled: Boolean(id),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
    retry: false,
  })
  return found.data ?? null
}
