import { useStudio } from '../store'

const ACCEPTED: Record<string, string> = {
  table: '.cube',
  picture: 'image/*,.svg',
  font: '.ttf,.otf,.woff,.woff2',
  recipe: '.json',
}
const ALL = 'video/*,image/*,audio/*,.mkv,.mov,.mp4,.webm,.avi,.mts,.svg,.flac,.ogg,.cube,.ttf,.otf,.woff,.woff2,.json'

/** Opens the system's dialog; `accept` is what it offers. What is chosen is given on, nothing if that is left. */
export function chooseFiles(accept: string, take: (files: File[]) => void, multiple = false): void {
  const field = document.createElement('input')
  field.type = 'file'
  field.multiple = multiple
  field.accept = accept
  field.onchange = () => field.files?.length && take(Array.from(field.files))
  field.click()
}

/** Opens the system's dialog and imports what is chosen; `of`: for files of one sort. */
export function pickFiles(of?: string): void {
  const take = (files: File[]) => void useStudio.getState().importFiles(files)
  chooseFiles((of && ACCEPTED[of]) ?? ALL, take, true)
}
