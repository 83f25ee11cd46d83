import { Box, Flex, Input } from '@chakra-ui/react'
import { Download } from 'lucide-react'
import { useEffect, useRef, useState } from 'react'
import { Act, Heading } from '../../parts/buttons'
import { Ordered, Placed } from '../../parts/Ordered'
import { Pick } from '../../parts/Pick'
import { download } from '../../parts/download'
import { useOf, useStudio } from '../../store'
import { SourceSettings } from '../../parts/SourceSettings'
import { can, changing, lies, named, type Owner, targetOf } from '../../parts/finishes'
import { useCatalog } from '../../parts/useCatalog'
import { Coming } from './Coming'
import { FAMILIES as KINDS } from './Kinds'
import { Link } from './Link'
import { Members } from './Members'

/** The finishes that a thing wears, from the first to the last; each works on what those before it have made. */
export function Chain({ owner, frames }: { owner: Owner; frames: Record<string, number> }) {
  const { view, edit, unfold } = useOf('view', 'edit', 'unfold')
  const { finishes } = owner
  const kinds = useCatalog()?.finishes ?? []
  const toned = finishes.some((f) => f.visible && kinds.find((k) => k.kind === f.kind)?.looks === 'tone')
  const looks = useCatalog()?.sources.find((s) => s.kind === owner.source.kind)?.looks ?? ''
  // What was put on last is open; the others are folded, so that all of the chain is seen.
  const [open, setOpen] = useState<string[]>(finishes.slice(-1).map((f) => f.id))
  const known = useRef(new Set(finishes.map((f) => f.id)))
  const last = open.at(-1) ?? null
  useEffect(() => {
    unfold(last)
    return () => unfold(null)
  }, [last, unfold])
  useEffect(() => {
    const fresh = finishes.filter((f) => !known.current.has(f.id)).map((f) => f.id)
    known.current = new Set(finishes.map((f) => f.id))
    if (fresh.length) setOpen(fresh.slice(-1))
  }, [finishes])
  const locked = !lies(owner) && owner.locked
  const target = targetOf(owner)
  const others = [
    ...view!.project.layers.filter((l) => l.id !== owner.id && targetOf(l) === target && !l.locked),
    ...(target === 'ground' ? view!.project.ground.filter((g) => g.id !== owner.id) : []),
  ]
  const nameOf = (o: Owner) => (lies(o) ? (view!.items.find((i) => i.id === o.id)?.name ?? 'Footage') : o.name)
  const move = (id: string, to: number) =>
    void edit(
      changing(owner, (all) => {
        const one = all.find((f) => f.id === id)
        if (!one) return all
        const rest = all.filter((f) => f.id !== id)
        return [...rest.slice(0, to), one, ...rest.slice(to)]
      }),
    )
  return (
    <>
      {!lies(owner) && can(owner, 'washes') && <SourceSettings layer={owner} title="Where it works" />}
      {!lies(owner) && can(owner, 'worded') && (
        <>
          <SourceSettings layer={owner} without={['face']} />
          <Coming layer={owner} />
        </>
      )}
      {!lies(owner) && can(owner, 'gathers') && <Members group={owner} />}
      {!lies(owner) && looks in KINDS && <SourceSettings layer={owner} />}
      <Heading>On it, in this order</Heading>
      {finishes.length === 0 && (
        <Box border="1px dashed {colors.rule}" borderRadius="soft" px="3" py="4" color="soft">
          As filmed. Put a finish on from the left; the picture shows it at once.
        </Box>
      )}
      <Ordered
        things={finishes.map((f) => ({ id: f.id, name: kinds.find((k) => k.kind === f.kind)?.title ?? f.kind }))}
        disabled={locked}
        onMove={move}
      >
        {finishes.map((f) => (
          <Placed key={f.id} id={f.id}>
            <Link
              finish={f}
              owner={owner}
              frames={frames}
              locked={locked}
              open={open.includes(f.id)}
              onFold={() => setOpen(open.includes(f.id) ? open.filter((id) => id !== f.id) : [...open, f.id])}
            />
          </Placed>
        ))}
      </Ordered>
      {finishes.length > 0 && (
        <Flex mt="2" gap="2" wrap="wrap" align="center">
          <Kept owner={owner} />
          {toned && (
            <Act
              icon={Download}
              hint="What it wears of tone, as a .cube file that other programs read"
              onClick={() =>
                download(
                  `/api/projects/${view!.project.id}/tones/${owner.id}.cube?frame=${useStudio.getState().playhead}`,
                )
              }
            >
              Tones as a table
            </Act>
          )}
          {others.length > 0 && (
            <Flex w="150px">
              <Pick
                label="Put these finishes on others"
                value=""
                options={[
                  ['', 'Put on others …'],
                  ...(others.length > 1 ? ([['all', 'All of them']] as [string, string][]) : []),
                  ...others.map((o): [string, string] => [o.id, nameOf(o)]),
                ]}
                onPick={(id) =>
                  id &&
                  void edit({
                    kind: 'dress like',
                    ...named(owner),
                    to: id === 'all' ? others.map((o) => o.id) : [id],
                  })
                }
              />
            </Flex>
          )}
        </Flex>
      )}
    </>
  )
}

/** Keeps the chain under a name. */
function Kept({ owner }: { owner: Owner }) {
  const { edit } = useOf('edit')
  const [text, setText] = useState<string | null>(null)
  if (text === null) return <Act onClick={() => setText('')}>Keep these as a set</Act>
  const keep = () => {
    setText(null)
    if (text.trim()) void edit({ kind: 'keep set', ...named(owner), called: text.trim() })
  }
  return (
    <Input
      aria-label="Name of the set"
      placeholder="Name of the set"
      autoFocus
      size="xs"
      h="28px"
      w="150px"
      bg="raised"
      borderRadius="soft"
      maxLength={60}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        e.stopPropagation()
        if (e.key === 'Enter') keep()
        if (e.key === 'Escape') setText(null)
      }}
    />
  )
}
