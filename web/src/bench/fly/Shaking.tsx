import { Box } from '@chakra-ui/react'
import { useQuery } from '@tanstack/react-query'
import { answer, api, type GroundItem } from '../../api/client'
import { shownAt, useOf } from '../../store'
import { frameUrl } from '../../parts/urls'
import { Behaviours } from './Behaviours'
import { MovingTile } from './MovingTile'
import { useAwake } from './useAwake'

/** What an item of the ground does all along, or (null) all of the piece: behaviours as small pictures of it. */
export function Shaking({ item }: { item: GroundItem | null }) {
  const { view } = useOf('view')
  const { awake, props } = useAwake()
  const project = view!.project
  const shown = useQuery({
    queryKey: ['shaking', project.id, item?.id, project.width, project.height, project.rate],
    queryFn: () =>
      answer(
        api.POST('/api/projects/{project}/shaking', {
          params: { path: { project: project.id } },
          body: { item: item?.id ?? null },
        }),
      ),
    staleTime: Infinity,
  }).data
  const place = item ? view!.items.find((i) => i.id === item.id) : view!.items[0]
  const at = place && shownAt(view!, place.start)
  const shot = at && view!.shots[at.shot]
  return (
    <Box mt="2" {...props}>
      <Behaviours
        owner={item}
        on={item ? 'ground' : 'piece'}
        tile={(kind, on, press) => (
          <MovingTile
            key={kind.kind}
            whole
            title={kind.title}
            hint={kind.hint}
            shown={shown?.shown.find((s) => s.kind === kind.kind)}
            box={shown?.box as [number, number, number, number] | undefined}
            moves={awake}
            picture={shot ? frameUrl(view!, shot, at.frame, 160) : ''}
            rate={project.rate}
            on={on}
            onPress={press}
            onHover={() => undefined}
          />
        )}
      />
    </Box>
  )
}
