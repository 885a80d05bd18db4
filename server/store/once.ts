/** Reads a thing the first time that it is asked for, by its name; whoever asks again gets the same answer. */
export type Once = <T>(name: string, read: () => Promise<T>) => Promise<T>

/** For one answer, whose parts rest on the same things: what is read for one of them is not read for the next again. */
export function onceEach(): Once {
  const kept = new Map<string, Promise<unknown>>()
  return <T>(name: string, read: () => Promise<T>): Promise<T> => {
    const known = kept.get(name) ?? read()
    kept.set(name, known)
    return known as Promise<T>
  }
}
