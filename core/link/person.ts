/** The person beside the unit, as far as a link needs one in the middle of what it does. */
export interface Person {
  /** Asks for an act of the hands and waits until it is done. */
  ask(act: { says: string; caution?: string }): Promise<void>
  /** Asks for something that only a person has, such as a password; hexadecimal digits come without blanks. */
  type(asked: { says: string; caution?: string; as: 'text' | 'hex' }): Promise<string>
  /** Says what is to be done while the link goes on by itself. */
  tell(says: string): Promise<void>
}
