import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { useStudio } from '../../shell/store'

/** What stands in the way of each recipe, in a sentence, by its kind; null where nothing does. */
export function useMissing(): Record<string, string | null> {
  const id = useStudio((s) => s.view?.project.id)
  const revision = useStudio((s) => s.view?.revision)
  const found = useQuery({
    queryKey: ['recipes', id, revision],
    queryFn: () => answer(api.GET('/api/projects/{project}/recipes', { params: { path: { project: id! } } })),
    enabled: Boolean(id),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  })
  return Object.fromEntries((found.data ?? []).map((r) => [r.kind, r.missing]))
}
