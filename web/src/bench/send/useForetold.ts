import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { useStudio } from '../../store'
import type { asked } from './sending'

/** How large a file is likely to be (bytes) and how long it will take (seconds); null until some frames were tried. */
export function useForetold(body: ReturnType<typeof asked>) {
  const id = useStudio((s) => s.view?.project.id)
  const revision = useStudio((s) => s.view?.revision)
  const found = useQuery({
    queryKey: ['foretold', id, revision, body],
    queryFn: async ({ signal }) => {
      // Settings are dragged: what is tried is what they come to rest at.
      await new Promise((after) => setTimeout(after, 600))
      if (signal.aborted) return null
      const path = { project: id! }
      return answer(api.POST('/api/projects/{project}/exports/foretold', { params: { path }, body, signal }))
    },
    enabled: Boolean(id) && (body.sending.what !== 'layers' || body.sending.layers.length > 0),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 20_000,
    retry: false,
  })
  return { told: found.isError ? null : (found.data ?? null), trying: found.isFetching }
}

/** Bytes, as they are told. */
export const megabytes = (bytes: number) =>
  bytes < 950_000 ? `${Math.max(1, Math.round(bytes / 1000))} KB` : `${(bytes / 1e6).toFixed(bytes < 1e8 ? 1 : 0)} MB`

/** Seconds, as they are told. */
export const shortly = (seconds: number) =>
  seconds < 90 ? `${Math.max(1, Math.round(seconds))} s` : `${Math.round(seconds / 60)} min`
