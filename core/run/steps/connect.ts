import type { StepAct } from '../bench'

/** Opens the port with the link's settings. */
export const connect: StepAct = ({ driver }) => driver.open()
