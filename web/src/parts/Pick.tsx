import { chakra } from '@chakra-ui/react'

type Options = [value: string, name: string][]

/** One of many choices, in a list that opens; in groups where there are such. */
export function Pick(p: {
  label: string
  value: string
  options?: Options
  groups?: Record<string, Options>
  disabled?: boolean
  onPick: (value: string) => void
}) {
  const all = (options: Options) =>
    options.map(([value, name]) => (
      <option key={value} value={value}>
        {name}
      </option>
    ))
  return (
    <chakra.select
      aria-label={p.label}
      title={p.label}
      value={p.value}
      disabled={p.disabled}
      flex="1"
      minW="0"
      h="28px"
      px="1.5"
      bg="raised"
      border="1px solid {colors.rule}"
      borderRadius="soft"
      onChange={(e) => p.onPick(e.target.value)}
    >
      {p.options && all(p.options)}
      {Object.entries(p.groups ?? {}).map(([group, options]) => (
        <optgroup key={group} label={group}>
          {all(options)}
        </optgroup>
      ))}
    </chakra.select>
  )
}
