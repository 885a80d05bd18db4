import { describe, expect, it } from 'vitest'
import { ended, endChildren, seededFolder, startProgram } from './server.test-support'

/* Whoever started the program may close the window it was started in; a run under way must not end by that. */
endChildren()
describe('a terminal that is gone', () => {
  it('is taken as a wish to end: at the next safe point, and not by what nobody reads any more', async () => {
    const program = await startProgram(seededFolder())
    program.child.stdout!.destroy()
    const end = ended(program.child)
    // Closing a window sends this; what the program then says meets a pipe that nobody reads (EPIPE).
    program.child.kill('SIGHUP')
    expect(await end).toBe(0)
  })
})
