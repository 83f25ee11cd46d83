import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'

/** What the server knows how to do: finishes, sources, arrangements, formats, easings. */
export function useCatalog() {
  return useQuery({ queryKey: ['catalog'], queryFn: () => answer(api.GET('/api/catalog')), staleTime: Infinity }).data
}
