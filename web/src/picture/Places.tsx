import type { Edit } from '../api/client'
import type { FrameHeader } from '../api/live'
import { can, changing, lies, named, newest, type Owner } from '../parts/finishes'
import { useCatalog } from '../parts/useCatalog'
import { useDrag } from '../parts/useDrag'
import { useOf, useStudio } from '../store'
import { roleColour } from '../theme/system'
import { onCanvas, Overlay, type Point } from './Overlay'

/**
 * The places that a finish goes by, as handles on the picture: those of the finish that is open on the bench. They are
 * shares of what wears it: of its box where it flies, of the canvas where it covers that.
 */
export function Places(p: { header: FrameHeader | null; width: number; height: number; scale: number }) {
  const { step, view, unfolded, playing, edit, setDraft, picking } = useOf(
    'step',
    'view',
    'unfolded',
    'playing',
    'edit',
    'setDraft',
    'picking',
  )
  const kinds = useCatalog()?.finishes
  const owners: Owner[] = [...(view?.project.layers ?? []), ...(view?.project.ground ?? [])]
  const owner = owners.find((o) => o.finishes.some((f) => f.id === unfolded))
  const finish = owner?.finishes.find((f) => f.id === unfolded)
  const properties = (kinds?.find((k) => k.kind === finish?.kind)?.settings.properties ?? {}) as Record<string, object>
  const pairs = Object.keys(properties).filter((n) => n.endsWith('across') && n.replace('across', 'down') in properties)
  const px = 1 / (p.scale || 1)
  const outline = p.header?.layers.find((o) => o.id === owner?.id)
  const covers = !owner || lies(owner) || can(owner, 'washes')
  const corners: Point[] | undefined = covers
    ? [
        [0, 0],
        [p.width, 0],
        [p.width, p.height],
        [0, p.height],
      ]
    : outline?.corners
  const given = owner && lies(owner) ? p.header?.source?.values : outline?.values
  const value = (name: string) => Number(given?.[`${finish?.id}.${name}`]?.[0] ?? finish?.settings[name] ?? 0)
  const place = (name: string): Point => {
    const [c0, c1, , c3] = corners as [Point, Point, Point, Point]
    const [u, v] = [value(name), value(name.replace('across', 'down'))]
    return [c0[0] + u * (c1[0] - c0[0]) + v * (c3[0] - c0[0]), c0[1] + u * (c1[1] - c0[1]) + v * (c3[1] - c0[1])]
  }
  const share = (at: Point): Point => {
    const [c0, c1, , c3] = corners as [Point, Point, Point, Point]
    const [a, b, q] = [c1, c3, at].map((c) => [c[0] - c0[0], c[1] - c0[1]] as Point) as [Point, Point, Point]
    const det = a[0] * b[1] - a[1] * b[0] || 1
    const within = (s: number) => Math.round(Math.max(-1, Math.min(2, s)) * 1000) / 1000
    return [within((q[0] * b[1] - q[1] * b[0]) / det), within((a[0] * q[1] - a[1] * q[0]) / det)]
  }
  /** Both numbers of a place: with keys they get one here. */
  const put = (name: string, at: Point): Edit => {
    const to = { [name]: at[0], [name.replace('across', 'down')]: at[1] }
    const now = newest(owner!)
    const keyed = Object.keys(to).filter((n) => now.keys.some((k) => k.channel === `${finish!.id}.${n}`))
    const still = Object.fromEntries(Object.entries(to).filter(([n]) => !keyed.includes(n)))
    const plain = changing(owner!, (all) =>
      all.map((f) => (f.id === finish!.id ? { ...f, settings: { ...f.settings, ...still } } : f)),
    )()
    const keys = keyed.map((n): Extract<Edit, { kind: 'set value' }> => ({
      kind: 'set value',
      ...named(owner!),
      channel: `${finish!.id}.${n}`,
      frame: useStudio.getState().playhead,
      value: [to[n]!],
      key: true,
    }))
    return keys.length ? ({ kind: 'several', edits: [plain, ...keys] } as Edit) : plain
  }
  const drag = useDrag({
    start: (e) => {
      const grip = (e.target as Element).closest('[data-place]')
      return grip ? { name: grip.getAttribute('data-place')!, last: null as Edit | null } : null
    },
    move: (_dx, _dy, h, e) => {
      const overlay = (e.target as Element).closest('svg') as SVGSVGElement
      h.last = put(h.name, share(onCanvas(e, overlay)))
      setDraft(h.last)
    },
    end: (_moved, h) => {
      if (h.last) void edit(h.last)
    },
  })
  if (step !== 'dress' || playing || picking || !finish || !pairs.length || !corners) return null
  const teal = roleColour('selected')
  const at = pairs.map(place)
  return (
    <Overlay through width={p.width} height={p.height} data-testid="places" {...drag}>
      {at.length === 2 && (
        <g fill="none">
          <path
            d={`M${at[0]!.join(' ')}L${at[1]!.join(' ')}`}
            stroke="#ffffff"
            strokeOpacity="0.7"
            strokeWidth={4 * px}
          />
          <path d={`M${at[0]!.join(' ')}L${at[1]!.join(' ')}`} stroke={teal} strokeWidth={1.8 * px} />
        </g>
      )}
      {pairs.map((name, n) => (
        <g
          key={name}
          transform={`translate(${at[n]![0]} ${at[n]![1]}) scale(${px})`}
          style={{ pointerEvents: 'auto', cursor: 'grab' }}
          data-place={name}
        >
          <circle r="13" fill="transparent" />
          <circle r="7" fill={n ? '#FBF8F2' : teal} stroke="#ffffff" strokeWidth="4" />
          <circle r="7" fill={n ? '#FBF8F2' : teal} stroke={teal} strokeWidth="2" />
        </g>
      ))}
    </Overlay>
  )
}
