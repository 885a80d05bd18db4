/** A serial as prefix and number: "BP-02417" is "BP-" and 2417. */
function parts(serial: string): { prefix: string; number: number } | null {
  const found = /^(.*?)(\d{1,12})$/.exec(serial.trim())
  return found ? { prefix: found[1]!, number: Number(found[2]) } : null
}

/** PRACTICE A2: whether a serial lies within a range of the same prefix; null when that cannot be told. */
export function serialWithin(serial: string, { from, to }: { from: string; to: string }): boolean | null {
  const [own, first, last] = [parts(serial), parts(from), parts(to)]
  if (!own || !first || !last) return null
  return own.prefix === first.prefix && first.number <= own.number && own.number <= last.number
}
