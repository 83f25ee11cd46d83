import { memo, type FunctionComponent, useRef } from 'react'

type Call = (...given: unknown[]) => unknown

/**
 * A part that is drawn again only when something that it shows has changed. What it calls (every prop `on…`) may be a
 * new function each time; it is always the newest one that is called. While a pointer moves, everything around it is
 * asked to draw itself up to a hundred times a second.
 */
export function steady<P extends object>(Face: FunctionComponent<P>): FunctionComponent<P> {
  const Kept = memo(Face) as FunctionComponent<P>
  return function Steady(props: P) {
    const newest = useRef(props)
    newest.current = props
    const calls = useRef<Record<string, Call>>({})
    const given = { ...props } as Record<string, unknown>
    for (const name in given) {
      if (!name.startsWith('on') || typeof given[name] !== 'function') continue
      calls.current[name] ??= (...those) => (newest.current as Record<string, Call>)[name]?.(...those)
      given[name] = calls.current[name]
    }
    return <Kept {...(given as P)} />
  }
}
