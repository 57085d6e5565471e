/** Hand a file that was made on the page to whoever reads it, under a name. */
export function saveFile(file: Blob, name: string): void {
  const link = Object.assign(document.createElement('a'), { href: URL.createObjectURL(file), download: name })
  link.click()
  URL.revokeObjectURL(link.href)
}
