import { roleColour } from '../theme/system'

/** A key, drawn as a small kite. */
export function Kite({ chosen, size = 14 }: { chosen?: boolean; size?: number }) {
  return (
    <svg viewBox="0 0 14 18" width={size} height={(size * 18) / 14} aria-hidden="true">
      <path
        d="M7 1 12.5 7.5 7 17 1.5 7.5Z"
        fill={roleColour('key')}
        stroke={chosen ? roleColour('selected') : '#5B4410'}
        strokeWidth={chosen ? 2.4 : 1}
        strokeLinejoin="round"
      />
    </svg>
  )
}
