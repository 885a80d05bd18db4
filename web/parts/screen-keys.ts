/** Keys beside Tab, Enter and Space, as they are written on them; each with what it does. */
export type KeyWords = readonly (readonly [keys: string, does: string])[]

const everywhere: KeyWords = [
  ['Ctrl K', 'Search, or run a command (⌘ K on a Mac)'],
  ['?', 'The keys of the screen you are on'],
  ['Tab, Shift Tab', 'To the next control, and back'],
  ['Esc', 'Closes what is open above the screen'],
  ['Alt ←', 'Back to where you came from'],
]
const bytes: KeyWords = [
  ['↑ ↓', 'A row of bytes up or down'],
  ['Page Up, Page Down', 'A page of bytes'],
  ['Home, End', 'To the first or the last byte'],
]
const job: KeyWords = [
  ['Enter or Space', 'Does what is next, while no control has the focus'],
  ['Esc', 'Closes a dialog without doing anything'],
]
const hands: KeyWords = [
  ['F', 'Left hand: down presses, up lets go'],
  ['J', 'Right hand'],
  ['H', 'Helper'],
  ['B', 'Foot'],
]
const lists: KeyWords = [['Enter', 'On a column’s head: sorts by it. On a name: opens it']]
const boxes: KeyWords = [['Space', 'On a box: chooses the row']]
const byScreen: Partial<Record<string, KeyWords>> = {
  today: [['Enter', 'On a name: opens the job'], ...boxes],
  units: lists,
  shelf: [...lists, ...boxes],
  logbook: lists,
  ports: lists,
  adapters: lists,
  unit: [
    ['Enter', 'While a page is typed: to the next line'],
    ['↑', 'While a page is typed: the same as last time'],
  ],
  image: bytes,
  compare: bytes,
  fits: [
    ['← → ↑ ↓', 'From cell to cell'],
    ['Enter', 'Says why it fits or does not'],
  ],
  family: [['Ctrl Z', 'Takes the last change back, outside a field']],
  job,
  entry: hands,
  practice: hands,
  log: [
    ['← →', 'Moves the cursor'],
    ['Shift ← →', 'Moves the picture'],
    ['+ −', 'Closer, further'],
    ['Home', 'The whole log'],
  ],
}

/** What keys do on a screen; null where it has none of its own. */
export const keysOf = (screen: string): { here: KeyWords | null; everywhere: KeyWords } => ({
  here: byScreen[screen] ?? null,
  everywhere,
})
