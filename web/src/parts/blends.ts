/** The modes of each group, written for people: "Color burn". */
export function blendGroups(blends: Record<string, string[]>): Record<string, [string, string][]> {
  const word = (mode: string) => (mode.charAt(0).toUpperCase() + mode.slice(1)).replace('-', ' ')
  return Object.fromEntries(
    Object.entries(blends).map(([group, modes]) => [group, modes.map((m): [string, string] => [m, word(m)])]),
  )
}
