import { roleColour } from '../theme/system'

/** A key, drawn as a small kite: long below, with a tail in the wind where there is room for one. */
export function Kite({ chosen, tail, size = 14 }: { chosen?: boolean; tail?: boolean; size?: number }) {
  const line = chosen ? roleColour('selected') : '#5B4410'
  return (
    <svg viewBox="0 0 14 24" width={size} height={(size * 24) / 14} aria-hidden="true" style={{ overflow: 'visible' }}>
      {tail && (
        <path
          d="M7 17.5C8.2 19 6.2 20 7.6 21.4 8.6 22.4 10.6 21.4 11.4 23"
          fill="none"
          stroke={line}
          strokeWidth="1.3"
          strokeLinecap="round"
        />
      )}
      <path
        d="M7 0.8 12.2 6.4 7 18 1.8 6.4Z"
        fill={roleColour('key')}
        stroke={line}
        strokeWidth={chosen ? 2.4 : 1}
        strokeLinejoin="round"
      />
      <path d="M1.8 6.4H12.2M7 0.8V18" stroke={line} strokeWidth="0.7" strokeOpacity="0.55" />
    </svg>
  )
}
