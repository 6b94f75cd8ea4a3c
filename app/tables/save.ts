/** Hands a text to the browser to be saved as a file. */
export function saveText(name: string, text: string, type = 'text/plain'): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([text], { type }))
  link.download = name
  link.click()
  // The browser reads it after the click.
  setTimeout(() => URL.revokeObjectURL(link.href), 1_000)
}
