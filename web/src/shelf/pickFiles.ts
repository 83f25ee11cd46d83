import { useStudio } from '../shell/store'

/** Opens the system's dialog and imports what is chosen. */
export function pickFiles(): void {
  const field = document.createElement('input')
  field.type = 'file'
  field.multiple = true
  field.accept = 'video/*,.mkv,.mov,.mp4,.webm,.avi,.mts'
  field.onchange = () => void useStudio.getState().importFiles(Array.from(field.files ?? []))
  field.click()
}
