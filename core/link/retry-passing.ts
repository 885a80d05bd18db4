import { isProblem } from '../kernel'

/** When something is tried again. */
export interface RetryForm {
  /** How often it is tried in all. */
  tries: number
  /** Kinds of Problem that another try may mend; any other is final. */
  passing: readonly string[]
  /** Called before each further try, with what went wrong. */
  onRetry?(error: unknown): Promise<void> | void
}

/** Tries an act again while it fails in a way that may pass: a lost answer, a piece of noise. The last failure stands. */
export async function retryPassing<T>(
  act: () => Promise<T>,
  { tries, passing, onRetry }: RetryForm,
): Promise<T> {
  for (let attempt = 1; ; attempt++) {
    try {
      return await act()
    } catch (error) {
      if (attempt >= tries || !passing.some((kind) => isProblem(error, kind))) throw error
      await onRetry?.(error)
    }
  }
}
