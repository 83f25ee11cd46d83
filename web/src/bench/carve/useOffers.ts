import { type RefObject, useEffect, useRef, useState } from 'react'
import type { Found, Matte, Raster } from '../../api/client'
import { otherOutlines } from './find'
import type { Table } from './hands'
import { isShape } from './path'

/** For how long nothing was drawn before other outlines are looked for, in milliseconds. */
const REST = 500

/** The outlines that a few marks may mean: the one they led to first, and which of them the matte has. */
export function useOffers(
  table: Table,
  latest: RefObject<Matte>,
  at: { project: string; hold: string; frame: number; width: number; height: number },
) {
  const [offers, setOffers] = useState<{ piece: string; marks: number; rasters: Raster[] } | null>(null)
  const asking = useRef<AbortController | null>(null)
  const forget = () => {
    asking.current?.abort()
    setOffers(null)
  }
  useEffect(() => forget, [at.hold, at.frame])

  const founds = latest.current.pieces.filter((p): p is Found => !isShape(p))
  const piece = founds.find((p) => p.id === offers?.piece)
  const shown = offers && piece && count(piece) === offers.marks ? offers.rasters : null

  const ask = (id: string) => {
    const asked = (asking.current = new AbortController())
    const look = async () => {
      const found = latest.current.pieces.find((p): p is Found => p.id === id && !isShape(p))
      if (asked.signal.aborted || !found) return
      const request = { frame: at.frame, piece: id }
      const others = await otherOutlines(at.project, at.hold, request, asked.signal).catch(() => [])
      if (!asked.signal.aborted && others.length)
        setOffers({ piece: id, marks: count(found), rasters: [found.raster, ...others] })
    }
    setTimeout(() => void look(), REST)
  }
  const choose = (n: number) => {
    const raster = shown?.[n]
    if (!raster) return
    const pieces = latest.current.pieces.map((p) => (p.id === offers!.piece ? { ...p, raster, doubt: null } : p))
    void table.commit({ ...latest.current, pieces })
  }
  const key = (pressed: string) => {
    if (!shown) return false
    if (pressed === 'Escape') forget()
    else if (shown[Number(pressed) - 1]) choose(Number(pressed) - 1)
    else return false
    return true
  }
  return { shown, chosen: shown?.findIndex((r) => r.file === piece!.raster.file) ?? -1, ask, forget, choose, key }
}

const count = (p: Found) => p.keep.length + p.drop.length
