import type { StepAct } from '../step-context'

/** Opens the port with the link's settings. */
export const connect: StepAct = ({ driver }) => driver.open()
