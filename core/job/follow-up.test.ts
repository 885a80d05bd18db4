import { describe, expect, it } from 'vitest'
import { askAgainOn, symptomsText, type JobDeed } from '.'

/* PRACTICE A6, common practice: what was reported is asked at the end, and again when it had time to come back. */

const deed = (did: JobDeed['did'], says = ''): JobDeed => ({ did, by: 'A. Lund', at: 1, says })

describe('when a symptom is asked after again', () => {
  it.each([
    [[], null],
    [[deed('closed', 'Done.')], null],
    [[deed('closed'), deed('ask-again', '2026-12-10')], '2026-12-10'],
    [[deed('closed'), deed('ask-again', '2026-12-10'), deed('asked', 'gone')], null],
    [[deed('closed'), deed('ask-again', '2026-12-10'), deed('reopened')], null],
    [[deed('ask-again', '2026-12-10'), deed('asked'), deed('ask-again', '2027-01-10')], '2027-01-10'],
    [[deed('ask-again', '2026-12-10'), deed('moved', '2026-12-01')], '2026-12-10'],
  ] as const)('%j: %s', (history, day) => expect(askAgainOn(history)).toBe(day))
})

it('says of each symptom what became of it', () => {
  expect(
    symptomsText([
      { says: 'Display freezes.', now: 'gone' },
      { says: 'Horn is late', now: 'not-known' },
      { says: 'Hums', now: 'there' },
    ]),
  ).toBe('“Display freezes”: gone. “Horn is late”: cannot be said yet. “Hums”: still there.')
})
