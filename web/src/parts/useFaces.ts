import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { useOf } from '../store'
import { useCatalog } from './useCatalog'

/** The faces that words can be set in: those of the fonts on the shelf first, then those that come with the program. */
export function useFaces() {
  const { view } = useOf('view')
  const project = view?.project.id ?? ''
  const fonts = Object.values(view?.assets ?? {}).filter((a) => a.kind === 'font')
  const { data: own = [] } = useQuery({
    queryKey: ['faces', project, ...fonts.map((a) => a.file + a.name)],
    queryFn: () => answer(api.GET('/api/projects/{project}/faces', { params: { path: { project } } })),
    enabled: fonts.length > 0,
    staleTime: Infinity,
  })
  return [...(fonts.length ? own : []), ...(useCatalog()?.faces ?? [])]
}
