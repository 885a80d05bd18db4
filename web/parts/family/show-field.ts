/** Brings the field of a place in a profile (`links.0.drive.key`) into view, or the nearest that holds it. */
export function showField(at: string): void {
  const places = at.split('.')
  while (places.length > 0) {
    const field = document.getElementById(`field-${places.join('.')}`)
    if (field) {
      field.scrollIntoView({ block: 'center' })
      const own = field.matches('input, textarea')
      ;(own ? field : field.querySelector<HTMLElement>('input, [role=combobox]'))?.focus()
      return
    }
    places.pop()
  }
}
