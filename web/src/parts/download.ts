/** Has the browser save what is at an address, under a name or the one that the server gives it. */
export function download(url: string, name = ''): void {
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
}
