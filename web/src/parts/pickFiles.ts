import { useStudio } from '../store'

const ACCEPTED: Record<string, string> = {
  table: '.cube',
  picture: 'image/*,.svg',
  font: '.ttf,.otf,.woff,.woff2',
  recipe: '.json',
}
const ALL = 'video/*,image/*,audio/*,.mkv,.mov,.mp4,.webm,.avi,.mts,.svg,.flac,.ogg,.cube,.ttf,.otf,.woff,.woff2,.json'

/** Opens the system's dialog and imports what is chosen; `of`: for files of one sort. */
export function pickFiles(of?: string): void {
  const field = document.createElement('input')
  field.type = 'file'
  field.multiple = true
  field.accept = (of && ACCEPTED[of]) ?? ALL
  field.onchange = () => void useStudio.getState().importFiles(Array.from(field.files ?? []))
  field.click()
}
