import { useStudio } from '../store'

/**
 * What the buttons, names and bars of phone apps cover of a tall video, hatched: the top bar, the column of buttons at
 * the right, the words at the bottom. They differ from app to app; these are as large as any of them.
 */
export function Guides({ width, height }: { width: number; height: number }) {
  const on = useStudio((s) => s.guides)
  if (!on || height / width < 1.4) return null
  const areas: [number, number, number, number][] = [
    [0, 0, 1, 0.075],
    [0.84, 0.42, 0.16, 0.38],
    [0, 0.8, 1, 0.2],
  ]
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      style={{ position: 'absolute', inset: 0, width: '100%', height: '100%', pointerEvents: 'none' }}
      aria-hidden="true"
      data-testid="guides"
    >
      <pattern id="covered" width="18" height="18" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="18" height="18" fill="#1E2530" fillOpacity="0.28" />
        <path d="M0 0V18" stroke="#FBF8F2" strokeWidth="5" strokeOpacity="0.5" />
      </pattern>
      {areas.map(([x, y, w, h]) => (
        <rect
          key={`${x} ${y}`}
          x={x * width}
          y={y * height}
          width={w * width}
          height={h * height}
          fill="url(#covered)"
        />
      ))}
    </svg>
  )
}
