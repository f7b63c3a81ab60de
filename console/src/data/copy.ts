// Text for the clipboard. An address that is not secure has none: there it is taken from a field, as browsers did before.
export async function copyText(text: string) {
  // Not every browser has what the types promise.
  const clipboard = navigator.clipboard as Clipboard | undefined
  if (clipboard) return clipboard.writeText(text)
  const area = document.createElement('textarea')
  area.value = text
  document.body.append(area)
  area.select()
  const done = document.execCommand('copy')
  area.remove()
  if (!done) throw new Error('The browser does not let this page copy.')
}
