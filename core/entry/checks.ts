import type { CauseId } from './causes'

/** How likely an answer is: the usual, and under the causes that change it. */
type Likelihood = { usual: number } & Partial<Record<CauseId, number>>

/** A test that narrows the causes down. */
export interface Check {
  id: string
  asks: string
  answers: { id: string; says: string; likelihood: Likelihood }[]
  /** Time it takes, s. */
  seconds: number
  /** 0 harms nothing; 1 switches the unit's power; 2 opens something. */
  risk: 0 | 1 | 2
  /** True where the program itself can see the answer. */
  seen?: boolean
  /** Only where one of these causes is possible at all. */
  about?: CauseId[]
}

/**
 * The tests, each with how likely its answers are under each cause (common practice, rounded). Answers of one test add
 * up to one under every cause.
 */
export const checks: readonly Check[] = [
  {
    id: 'port-listed',
    asks: 'Is the adapter’s port in the list?',
    seconds: 5,
    risk: 0,
    seen: true,
    answers: [
      { id: 'yes', says: 'It is there', likelihood: { usual: 0.98, 'no-driver': 0.05 } },
      { id: 'no', says: 'No port came', likelihood: { usual: 0.02, 'no-driver': 0.95 } },
    ],
  },
  {
    id: 'port-free',
    asks: 'Does another program hold the port?',
    seconds: 5,
    risk: 0,
    seen: true,
    answers: [
      { id: 'free', says: 'It is free', likelihood: { usual: 0.98, 'port-held': 0.05 } },
      { id: 'held', says: 'Another program has it', likelihood: { usual: 0.02, 'port-held': 0.95 } },
    ],
  },
  {
    id: 'arrives',
    asks: 'What arrives on the line?',
    seconds: 5,
    risk: 0,
    seen: true,
    answers: [
      {
        id: 'silence',
        says: 'Nothing at all',
        likelihood: {
          usual: 0.92,
          'wrong-speed': 0.12,
          'second-unit': 0.15,
          'bad-contact': 0.65,
          'wrong-cable': 0.75,
        },
      },
      {
        id: 'noise',
        says: 'Bytes that make no sense',
        likelihood: {
          usual: 0.08,
          'wrong-speed': 0.88,
          'second-unit': 0.85,
          'bad-contact': 0.35,
          'wrong-cable': 0.25,
        },
      },
    ],
  },
  {
    id: 'starts',
    asks: 'Switched on with nothing held, does the unit start as usual?',
    seconds: 15,
    risk: 1,
    answers: [
      { id: 'yes', says: 'It starts as usual', likelihood: { usual: 0.96, 'no-power': 0.04 } },
      { id: 'no', says: 'It stays dead', likelihood: { usual: 0.04, 'no-power': 0.96 } },
    ],
  },
  {
    id: 'sign',
    asks: 'What did the unit show after your last try?',
    seconds: 5,
    risk: 0,
    answers: [
      {
        id: 'in',
        says: 'The sign that it is in',
        likelihood: { usual: 0.85, 'missed-window': 0.04, 'no-power': 0.01, 'wrong-definition': 0.2 },
      },
      {
        id: 'normal',
        says: 'Its normal start',
        likelihood: { usual: 0.1, 'missed-window': 0.92, 'no-power': 0.02, 'wrong-definition': 0.75 },
      },
      {
        id: 'nothing',
        says: 'Nothing',
        likelihood: { usual: 0.05, 'missed-window': 0.04, 'no-power': 0.97, 'wrong-definition': 0.05 },
      },
    ],
  },
  {
    id: 'pair',
    asks: 'Follow the two signal wires: does transmit go to receive?',
    seconds: 30,
    risk: 0,
    about: ['swapped-pair'],
    answers: [
      { id: 'crossed', says: 'Yes, both ways', likelihood: { usual: 0.96, 'swapped-pair': 0.05 } },
      { id: 'same', says: 'No, like goes to like', likelihood: { usual: 0.04, 'swapped-pair': 0.95 } },
    ],
  },
  {
    id: 'contact',
    asks: 'Push each plug home and pull gently at each wire: does one give?',
    seconds: 20,
    risk: 0,
    answers: [
      { id: 'firm', says: 'All are firm', likelihood: { usual: 0.93, 'bad-contact': 0.1 } },
      { id: 'gives', says: 'One gave', likelihood: { usual: 0.07, 'bad-contact': 0.9 } },
    ],
  },
  {
    id: 'label',
    asks: 'Read the cable’s label: is it the one that the drawing asks for?',
    seconds: 15,
    risk: 0,
    answers: [
      { id: 'it-is', says: 'It is that one', likelihood: { usual: 0.95, 'wrong-cable': 0.08 } },
      { id: 'other', says: 'Another, or no label', likelihood: { usual: 0.05, 'wrong-cable': 0.92 } },
    ],
  },
  {
    id: 'speed',
    asks: 'Look at the speed and parity set on both ends: are they as the unit’s manual says?',
    seconds: 20,
    risk: 0,
    answers: [
      { id: 'same', says: 'They are', likelihood: { usual: 0.96, 'wrong-speed': 0.05 } },
      { id: 'other', says: 'One differs', likelihood: { usual: 0.04, 'wrong-speed': 0.95 } },
    ],
  },
  {
    id: 'count',
    asks: 'Follow the bus: is anything else joined to it?',
    seconds: 40,
    risk: 0,
    about: ['second-unit'],
    answers: [
      { id: 'one', says: 'Nothing else', likelihood: { usual: 0.97, 'second-unit': 0.04 } },
      { id: 'more', says: 'Something else is', likelihood: { usual: 0.03, 'second-unit': 0.96 } },
    ],
  },
  {
    id: 'layout',
    asks: 'Does the layout on the unit’s page agree with the image’s?',
    seconds: 25,
    risk: 0,
    about: ['wrong-definition'],
    answers: [
      { id: 'agrees', says: 'It agrees', likelihood: { usual: 0.96, 'wrong-definition': 0.06 } },
      { id: 'differs', says: 'It differs', likelihood: { usual: 0.04, 'wrong-definition': 0.94 } },
    ],
  },
  {
    id: 'slow-try',
    asks: 'Try once more with the coach, one act at a time: is it in?',
    seconds: 45,
    risk: 1,
    answers: [
      { id: 'in', says: 'It is in', likelihood: { usual: 0.03, 'missed-window': 0.7 } },
      { id: 'out', says: 'It is not', likelihood: { usual: 0.97, 'missed-window': 0.3 } },
    ],
  },
]
