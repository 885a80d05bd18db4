/** Does something where this computer stands in a time zone of the IANA database, and brings its own zone back. */
export async function inZone<T>(zone: string, act: () => T | Promise<T>): Promise<T> {
  const own = process.env['TZ']
  process.env['TZ'] = zone
  try {
    return await act()
  } finally {
    if (own === undefined) delete process.env['TZ']
    else process.env['TZ'] = own
  }
}
