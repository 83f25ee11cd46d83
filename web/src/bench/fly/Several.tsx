import { Flex, Image, Input, Text } from '@chakra-ui/react'
import { Eye, EyeOff, Group, Lock, LockOpen, Trash2 } from 'lucide-react'
import { useState } from 'react'
import { type Edit, type Layer, newId } from '../../api/client'
import { Act, Choice, Tool } from '../../parts/buttons'
import { Fold } from '../../parts/Fold'
import { NumberField } from '../../parts/fields'
import { Pick } from '../../parts/Pick'
import { SwitchRow } from '../../parts/SwitchRow'
import { useCatalog } from '../../parts/useCatalog'
import { withKey } from '../../parts/keys'
import { chosenTops, together, useOf } from '../../store'
import { AlignBar } from './AlignBar'
import { KeepRecipe } from './KeepRecipe'
import { Pinned } from './Pinned'
import { blendGroups } from '../../parts/blends'

/** Several layers at once: arranged alike, put in line, shown, locked, tagged, grouped, removed. */
export function Several({ layers }: { layers: Layer[] }) {
  const { view, layer, moreLayers, edit, chooseLayer } = useOf('view', 'layer', 'moreLayers', 'edit', 'chooseLayer')
  const catalog = useCatalog()
  const ids = layers.map((l) => l.id)
  const each = (field: object) =>
    together(ids.map((id): Edit => ({ kind: 'change layer', layer: id, clear: [], ...field })))
  const all = (field: object) => {
    const made = each(field)
    if (made) void edit(made)
  }
  const seen = layers.some((l) => l.visible)
  const open = layers.some((l) => !l.locked)
  const group = async () => {
    const made = newId()
    if (await edit({ kind: 'make group', layers: ids, group: made })) chooseLayer(made)
  }
  const remove = () => {
    const made = together(
      chosenTops({ layer, moreLayers, view }).map((id): Edit => ({ kind: 'remove layer', layer: id })),
    )
    if (made) void edit(made)
  }
  return (
    <>
      <Fold name="several" title="All of them">
        <Faces layers={layers} />
        <Flex gap="1.5" wrap="wrap">
          <Tool
            icon={seen ? EyeOff : Eye}
            label={seen ? 'Hide all' : 'Show all of them'}
            onClick={() => all({ visible: !seen })}
          />
          <Tool
            icon={open ? Lock : LockOpen}
            label={open ? 'Lock all' : 'Unlock all'}
            onClick={() => all({ locked: open })}
          />
          <Tool
            icon={Group}
            label="Group them"
            hint={withKey('Make a group of them', 'group')}
            onClick={() => void group()}
          />
          <Tool icon={Trash2} label="Remove all" hint={withKey('Remove them', 'remove')} onClick={remove} />
        </Flex>
        <Flex align="center" minH="34px" gap="2" mt="1">
          <Text flex="1">Blend</Text>
          <Flex w="140px">
            <Pick
              label="Blend all with what lies below"
              value={layers.every((l) => l.blend === layers[0]?.blend) ? (layers[0]?.blend ?? 'normal') : ''}
              groups={{ '': [['', 'Different']], ...blendGroups(catalog?.blends ?? {}) }}
              onPick={(blend) => blend && all({ blend })}
            />
          </Flex>
        </Flex>
        <TagAll onTag={(tag) => all(tag ? { tag } : { clear: ['tag'] })} />
        <AlignBar layers={ids} disabled={!open} />
      </Fold>
      <Fold name="pin" title="In the scene">
        <Pinned layers={layers} />
      </Fold>
      <Alike layers={layers} />
      <KeepRecipe key={ids.join()} layers={layers} />
    </>
  )
}

/** All of them, small; a press chooses one alone. */
function Faces({ layers }: { layers: Layer[] }) {
  const { view, chooseLayer } = useOf('view', 'chooseLayer')
  return (
    <Flex gap="2" wrap="wrap">
      {layers.map((l) => (
        <Flex
          as="button"
          key={l.id}
          direction="column"
          align="center"
          w="64px"
          cursor="pointer"
          title={`Choose ${l.name} alone`}
          onClick={() => chooseLayer(l.id)}
        >
          <Image
            src={`/api/projects/${view!.project.id}/layers/${l.id}/thumbnail.png?side=80&r=${view!.revision}`}
            alt=""
            h="48px"
            w="56px"
            objectFit="contain"
          />
          <Text fontSize="12px" maxW="100%" truncate>
            {l.name}
          </Text>
        </Flex>
      ))}
    </Flex>
  )
}

/** One arrangement for all of them. */
function Alike({ layers }: { layers: Layer[] }) {
  const { view, edit } = useOf('view', 'edit')
  const catalog = useCatalog()
  const ids = layers.map((l) => l.id)
  const [way, setWay] = useState('trail')
  const [limited, setLimited] = useState(true)
  const [lasts, setLasts] = useState(20)
  const [ends, setEnds] = useState<'own' | 'together'>('together')
  const [steps, setSteps] = useState(false)
  const suits = (kind: string) => layers.every((l) => view!.layers[l.id]?.suits.includes(kind))
  const ways = (catalog?.arrangements ?? []).filter((a) => !a.on.includes('moving') && suits(a.kind))
  const chosen = ways.some((a) => a.kind === way) ? way : ways[0]?.kind
  const trails = chosen === 'trail' || chosen === 'ahead' || chosen === 'arrival' || chosen === 'departure'
  return (
    <Fold name="arranged" title={`${layers.length} layers, arranged alike`}>
      {chosen ? (
        <>
          <Choice
            label="Arrangement of all"
            value={chosen}
            onChange={setWay}
            options={ways.map((a) => ({ value: a.kind, label: a.title, hint: a.hint }))}
          />
          {trails && (
            <>
              <SwitchRow label="Only for a while" on={limited} onChange={setLimited} />
              {limited && (
                <>
                  <NumberField
                    label={chosen === 'trail' || chosen === 'departure' ? 'Frames after' : 'Frames before'}
                    unit="fr"
                    value={lasts}
                    initial={20}
                    min={1}
                    onCommit={setLasts}
                  />
                  <Choice
                    label="Ends"
                    value={ends}
                    onChange={setEnds}
                    options={[
                      {
                        value: 'together',
                        label: chosen === 'trail' ? 'End together' : 'Begin together',
                        hint: 'Counted from the last of them, or the first of those that wait',
                      },
                      { value: 'own', label: 'Each by itself', hint: 'Each is there for as long' },
                    ]}
                  />
                </>
              )}
            </>
          )}
          <SwitchRow label="Fainter step by step" on={steps} onChange={setSteps} />
          <Flex mt="2">
            <Act
              main
              onClick={() =>
                void edit({
                  kind: 'arrange',
                  layers: ids,
                  arrangement: { kind: chosen } as Layer['arrangement'],
                  lasts: trails && limited ? lasts : null,
                  together: ends === 'together',
                  steps,
                })
              }
            >
              Arrange them
            </Act>
          </Flex>
        </>
      ) : (
        <Text color="soft">They have no arrangement in common.</Text>
      )}
    </Fold>
  )
}

function TagAll({ onTag }: { onTag: (tag: string) => void }) {
  const [text, setText] = useState('')
  return (
    <Flex align="center" gap="2" minH="34px">
      <Text flex="1">Tag</Text>
      <Input
        aria-label="Tag all"
        size="2xs"
        h="24px"
        w="86px"
        px="1.5"
        bg="raised"
        borderRadius="soft"
        maxLength={24}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          e.stopPropagation()
          if (e.key === 'Enter') onTag(text.trim())
        }}
      />
      <Act onClick={() => onTag(text.trim())}>Set</Act>
    </Flex>
  )
}
