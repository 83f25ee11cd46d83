import { Box } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import type { Edit } from '../api/client'
import { useHeader, useOf, useStudio } from '../store'
import { lies, named, newest, type Owner } from './finishes'
import { KeyMark } from './KeyMark'
import { numbersOf, type Setting, settingsOf, valueOf } from './schema'

/** Settings of something that a layer or a ground item has, which may have keys. */
interface Keyed {
  owner: Owner
  /** What stands for it in the names of channels. */
  prefix: string
  schema: Record<string, unknown>
  /** Their values without keys. */
  own: Record<string, unknown>
  /** The project frame of each key of the owner. */
  frames: Record<string, number>
  /** The edit that gives a setting without keys a value, of the owner as it is when its turn comes. */
  rest: (name: string, value: unknown) => Edit
}

/** Their values at the playhead, what gives one another value, and the kite that stands beside it. */
export function useKeyed(p: Keyed) {
  const { edit, settled } = useOf('edit', 'settled')
  const header = useHeader()
  const given = lies(p.owner)
    ? header?.source?.item === p.owner.id
      ? header.source.values
      : {}
    : header?.layers.find((o) => o.id === p.owner.id)?.values
  const channel = (name: string) => `${p.prefix}.${name}`
  const keysOf = (name: string) => p.owner.keys.filter((k) => k.channel === channel(name))
  const settings = Object.fromEntries(settingsOf(p.schema).map((s) => [s.name, s]))
  const values = Object.fromEntries(
    Object.entries(p.own).map(([name, v]) => {
      const now = keysOf(name).length ? given?.[channel(name)] : undefined
      return [name, now && settings[name] ? valueOf(settings[name], now) : v]
    }),
  )
  /** A setting with keys gets one here; without, it is what it is all along. */
  const put =
    (name: string, value: unknown, key = false) =>
    (): Edit =>
      key || newest(p.owner).keys.some((k) => k.channel === channel(name))
        ? {
            kind: 'set value',
            ...named(p.owner),
            channel: channel(name),
            frame: useStudio.getState().playhead,
            value: numbersOf(settings[name]!, value),
            key,
          }
        : p.rest(name, value)
  const kite = (s: Setting): ReactNode => {
    if (!s.keyable)
      return s.sort === 'number' || s.sort === 'whole' || s.sort === 'colour' ? <Box w="22px" /> : undefined
    const here = keysOf(s.name).find((k) => p.frames[k.id] === settled)
    const toggle = () =>
      void edit(here ? { kind: 'remove key', ...named(p.owner), key: here.id } : put(s.name, values[s.name], true))
    return <KeyMark name={s.label.toLowerCase()} here={Boolean(here)} onToggle={toggle} />
  }
  return { values, put, kite }
}
