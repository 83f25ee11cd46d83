import { useEffect, useMemo, useState } from 'react'
import type { Hold, Matte, View } from '../../api/client'
import { useOf } from '../../store'

/** The matte at a frame: the hold's own, or its pieces at a frame that it travels to. */
function matteAt(hold: Hold, stops: View['stops'][string] | undefined, frame: number): Matte {
  if (hold.frame === frame) return hold.matte
  return { ...hold.matte, pieces: stops?.[frame]?.pieces ?? [] }
}

/** The matte that is carved, at the held frame or at one that it travels to: as it is, and as a hand would have it. */
export function useMatte(hold: Hold, view: View) {
  const { edit, setDraft } = useOf('edit', 'setDraft')
  const { travel } = hold
  const [wanted, setWanted] = useState(hold.frame)
  const at = travel && wanted >= travel.first && wanted < travel.past ? wanted : hold.frame
  const frame = at === hold.frame ? null : at
  // What carrying puts into other frames must not disturb what is being drawn on this one.
  const written = JSON.stringify(matteAt(hold, view.stops[hold.id], at))
  const known = useMemo(() => JSON.parse(written) as Matte, [written])
  const [local, setLocal] = useState<Matte | null>(null)
  useEffect(() => setLocal(null), [known])

  const commit = async (next: Matte) => {
    setLocal(next)
    const done = await edit({ kind: 'change matte', hold: hold.id, matte: next, frame })
    if (!done) setLocal(null)
    return done
  }
  const show = (next: Matte) => {
    // While dragging, what takes long is left out; letting go puts it in.
    const quick = { ...next, fine_edge: 0, fringe: 0 }
    setLocal(next)
    setDraft({ kind: 'change matte', hold: hold.id, matte: quick, frame })
  }
  return { at, goTo: setWanted, known, local, matte: local ?? known, commit, show }
}
