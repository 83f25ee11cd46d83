import { useQuery } from '@tanstack/react-query'
import { answer, api, type ReadyRecipe } from '../../api/client'
import { useCatalog } from '../../parts/useCatalog'
import { useStudio } from '../../store'

/** A recipe as it is offered: one of ours, or one of somebody's own, which has a file. */
export interface Offered {
  /** What it goes by on the page: its kind, or the file of one's own. */
  id: string
  kind: string
  file: string | null
  title: string
  hint: string
  when: string
  film: string
  missed: string
  words: boolean
  takes: number
  asks: { title: string; words: string }[]
  schema: Record<string, unknown>
  /** What stands in its way, in a sentence. */
  missing: string | null
}

/** All recipes, one's own first, with what stands in the way of each. */
export function useRecipes(): Offered[] {
  const id = useStudio((s) => s.view?.project.id)
  const revision = useStudio((s) => s.view?.revision)
  const kinds = useCatalog()?.recipes ?? []
  const found = useQuery({
    queryKey: ['recipes', id, revision],
    queryFn: () => answer(api.GET('/api/projects/{project}/recipes', { params: { path: { project: id! } } })),
    enabled: Boolean(id),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 20_000,
  })
  return (found.data ?? []).flatMap((r: ReadyRecipe) => {
    const kind = kinds.find((k) => k.kind === r.kind)
    if (!kind) return []
    const own = r.file != null
    const many = r.moments > 1 ? `${r.moments} moments` : 'one moment'
    return {
      id: r.file ?? r.kind,
      kind: r.kind,
      file: r.file ?? null,
      title: r.name ?? kind.title,
      hint: own ? `Yours, of ${many}${r.takes > 1 ? ` in ${r.takes} takes` : ''}` : kind.hint,
      when: kind.when,
      film: kind.film,
      missed: kind.missed,
      words: kind.words,
      takes: r.takes,
      asks: r.asks,
      schema: kind.settings,
      missing: r.missing ?? null,
    }
  })
}
