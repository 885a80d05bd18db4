/** Hands a document to the person as a file. */
export function saveJson(value: unknown, fileName: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(
    new Blob([`${JSON.stringify(value, null, 2)}\n`], { type: 'application/json' }),
  )
  link.download = fileName
  link.click()
  URL.revokeObjectURL(link.href)
}
