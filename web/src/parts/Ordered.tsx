import { Box, Flex } from '@chakra-ui/react'
import {
  type Announcements,
  closestCenter,
  type CollisionDetection,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  useSensor,
  useSensors,
} from '@dnd-kit/core'
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { GripVertical } from 'lucide-react'
import { createContext, type ReactNode, useContext } from 'react'

interface Thing {
  id: string
  name: string
}

interface Order {
  things: Thing[]
  disabled: boolean
  move: (id: string, to: number) => void
}

/** What the pointer is over: an opened thing is tall, and its middle is far from where it is held. */
const under: CollisionDetection = (args) => {
  const pointed = pointerWithin(args)
  return pointed.length ? pointed : closestCenter(args)
}

const OrderOf = createContext<Order>({ things: [], disabled: false, move: () => undefined })
const PlaceOf = createContext<ReturnType<typeof useSortable> | null>(null)

/** Things one below the other whose order is theirs to change, by hand or by keys: each is a `Placed` with a `Grip`. */
export function Ordered(p: {
  things: Thing[]
  disabled?: boolean
  onMove: (id: string, to: number) => void
  children: ReactNode
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 3 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  )
  const { things, onMove } = p
  const place = (id: unknown) => things.findIndex((t) => t.id === id)
  const ended = ({ active, over }: DragEndEvent) => {
    const to = place(over?.id)
    if (over && to >= 0 && to !== place(active.id)) onMove(String(active.id), to)
  }
  const name = (id: unknown) => things[place(id)]?.name ?? ''
  const at = (id: unknown) => `place ${place(id) + 1} of ${things.length}`
  const announcements: Announcements = {
    onDragStart: ({ active }) => `${name(active.id)} is lifted from ${at(active.id)}.`,
    onDragOver: ({ active, over }) => (over ? `${name(active.id)} would go to ${at(over.id)}.` : undefined),
    onDragEnd: ({ active, over }) => `${name(active.id)} lies at ${at(over?.id ?? active.id)}.`,
    onDragCancel: ({ active }) => `${name(active.id)} stays at ${at(active.id)}.`,
  }
  const instructions = { draggable: 'Space lifts it, the arrows move it, Space puts it down, Escape leaves it there.' }
  return (
    <OrderOf.Provider value={{ things, disabled: p.disabled ?? false, move: onMove }}>
      <DndContext
        sensors={sensors}
        collisionDetection={under}
        onDragEnd={ended}
        accessibility={{ announcements, screenReaderInstructions: instructions }}
      >
        <SortableContext items={things} strategy={verticalListSortingStrategy}>
          {p.children}
        </SortableContext>
      </DndContext>
    </OrderOf.Provider>
  )
}

/** One of them. */
export function Placed({ id, children }: { id: string; children: ReactNode }) {
  const { disabled, things } = useContext(OrderOf)
  const place = useSortable({ id, disabled: disabled || things.length < 2 })
  return (
    <PlaceOf.Provider value={place}>
      <Box
        ref={place.setNodeRef}
        style={{ transform: CSS.Translate.toString(place.transform), transition: place.transition }}
        position="relative"
        zIndex={place.isDragging ? 2 : undefined}
        opacity={place.isDragging ? 0.75 : undefined}
      >
        {children}
      </Box>
    </PlaceOf.Provider>
  )
}

/** Where it is taken hold of. The up and down arrows move it as well. */
export function Grip({ id }: { id: string }) {
  const { things, disabled, move } = useContext(OrderOf)
  const place = useContext(PlaceOf)!
  const n = things.findIndex((t) => t.id === id)
  const fixed = disabled || things.length < 2
  return (
    <Flex
      as="button"
      ref={place.setActivatorNodeRef}
      {...place.attributes}
      {...place.listeners}
      aria-label={`Move ${things[n]?.name ?? ''}`}
      align="center"
      h="26px"
      color="soft"
      cursor="grab"
      touchAction="none"
      visibility={fixed ? 'hidden' : undefined}
      onKeyDown={(e) => {
        if (fixed) return
        const to = n + (e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' ? 1 : 0)
        if (!place.isDragging && to !== n) {
          if (to >= 0 && to < things.length) move(id, to)
          e.preventDefault()
          e.stopPropagation()
        } else if (e.key === ' ' || e.key === 'Enter') {
          e.stopPropagation()
          place.listeners?.onKeyDown?.(e)
        }
      }}
    >
      <GripVertical size={14} />
    </Flex>
  )
}
