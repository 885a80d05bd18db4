/** Tells a fault of a profile: the path of the field, and what is wrong with it. */
export type Fault = (at: string, says: string) => void
