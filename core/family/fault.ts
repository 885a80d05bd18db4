/** Tells a fault of a profile: the path of the field, and what is wrong with it. */
export type Fault = (at: string, says: string) => void

/** Short names are used once in a list. */
export function noTwins(list: readonly { id: string }[], place: string, fault: Fault): void {
  list.forEach(({ id }, index) => {
    if (list.findIndex((each) => each.id === id) !== index)
      fault(`${place}.${index}.id`, `"${id}" is used twice`)
  })
}
