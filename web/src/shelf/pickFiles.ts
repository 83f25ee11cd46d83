import { useStudio } from '../shell/store'

/** Opens the system's dialog and imports what is chosen. */
export function pickFiles(): void {
  const field = document.createElement('input')
  field.type = 'file'
  field.multiple = true
  field.accept = 'video/*,image/*,audio/*,.mkv,.mov,.mp4,.webm,.avi,.mts,.svg,.flac,.ogg'
  field.onchange = () => void useStudio.getState().importFiles(Array.from(field.files ?? []))
  field.click()
}
