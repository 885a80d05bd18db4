import { isProblem, Problem } from '../kernel'
import { retryPassing } from './retry-passing'

/** Troubles of an adapter that another try may mend: a contact that gave way, an answer that broke off. */
export const adapterPassing = ['usb-stall', 'dap-answer', 'dap-refused'] as const

/**
 * Joins what has no bootloader of its own. Where nobody answers it is told as `no-bootloader`, so that the way in is tried
 * anew.
 * @param silence kind of Problem that says so on this link.
 */
export async function joinOrNobody(
  join: () => Promise<unknown>,
  silence: string,
  form: { tries: number; passing: readonly string[] } = { tries: 2, passing: adapterPassing },
): Promise<void> {
  try {
    await retryPassing(join, form)
  } catch (error) {
    throw isProblem(error, silence) ? new Problem({ ...error.facts, kind: 'no-bootloader' }) : error
  }
}
