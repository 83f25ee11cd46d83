/** Puts text on the clipboard; whether the browser let that happen. */
export async function copyText(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text)
    return true
  } catch {
    // Browsers that keep that from pages still copy what is selected.
    const field = document.createElement('textarea')
    field.value = text
    field.style.position = 'fixed'
    document.body.append(field)
    field.select()
    const done = document.execCommand('copy')
    field.remove()
    return done
  }
}
