import { roleColour } from '../theme/system'

/** The colours of tags, by their names. */
export const TAGS: Record<string, string> = {
  red: '#C2372B',
  amber: '#B97A00',
  green: '#2F7D4F',
  blue: '#2C6BB0',
  violet: '#7A4BA8',
}

/** The colour of a moment with a tag; without one, or with one that another program gave it, that of moments. */
export function tagColour(tag: string | null | undefined): string {
  return (tag && TAGS[tag]) || roleColour('now')
}
