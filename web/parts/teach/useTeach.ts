import {
  checkFamily,
  emptyDraft,
  nextPiece,
  operationOfPiece,
  pieceStates,
  profileOf,
  readDraft,
  trialMark,
  type OperationName,
  type PieceId,
  type TeachDraft,
  type Trials,
} from '@bench-wake/core/family'
import { computed, ref, watch } from 'vue'

const place = 'bench-wake.teach'
/** Steps that can be taken back. */
const maxSteps = 200

/** What is taught so far: kept at every change, taken up again, taken back step by step. */
export function useTeach() {
  const draft = ref<TeachDraft>(emptyDraft())
  const trials = ref<Trials>({})
  const before = ref<TeachDraft[]>([])
  const resumed = ref(false)
  /** What the unit said when it was asked for its version: at the terminal, or in a file. */
  const heard = ref('')
  try {
    const kept = JSON.parse(localStorage.getItem(place) ?? 'null') as {
      draft?: unknown
      trials?: Trials
    } | null
    const read = readDraft(kept?.draft)
    if (read) {
      draft.value = read
      trials.value = kept?.trials ?? {}
      resumed.value = true
    }
  } catch {
    // What was kept is no draft any more: it begins anew.
  }
  const piece = ref<PieceId>(nextPiece(draft.value) ?? 'page')

  watch(
    [draft, trials],
    () => localStorage.setItem(place, JSON.stringify({ draft: draft.value, trials: trials.value })),
    { deep: true },
  )
  const document = computed(() => profileOf(draft.value))
  const faults = computed(() => checkFamily(document.value).faults)
  const states = computed(() => pieceStates(draft.value, trials.value))

  function change(part: Partial<TeachDraft>): void {
    before.value = [...before.value.slice(-maxSteps), draft.value]
    draft.value = { ...draft.value, ...part }
  }
  function undo(): void {
    const last = before.value.at(-1)
    if (!last) return
    before.value = before.value.slice(0, -1)
    draft.value = last
  }
  function startOver(): void {
    change(emptyDraft())
    trials.value = {}
    resumed.value = false
    piece.value = 'line'
  }
  /** It is a profile now: the draft has done its work. */
  function done(): void {
    localStorage.removeItem(place)
  }
  function tried(operation: OperationName): void {
    const mark = trialMark(draft.value, operation)
    if (mark !== null) trials.value = { ...trials.value, [operation]: mark }
  }
  /** The first piece after this one that is not known; the first of all where none is left after it. */
  function onward(): void {
    const at = states.value.findIndex(({ id }) => id === piece.value)
    const later = [...states.value.slice(at + 1), ...states.value.slice(0, at)]
    piece.value = later.find(({ state }) => state === 'not-known')?.id ?? piece.value
  }
  /** Something was understood over it: its speed is right. */
  const lineHeard = () => {
    if (!draft.value.lineKnown) change({ lineKnown: true })
  }
  const hear = (text: string) => (heard.value = text)
  const operation = computed(() => operationOfPiece[piece.value] ?? null)
  return {
    draft,
    trials,
    piece,
    document,
    faults,
    states,
    before,
    resumed,
    heard,
    hear,
    lineHeard,
    operation,
    change,
    undo,
    startOver,
    done,
    tried,
    onward,
  }
}
export type Teach = ReturnType<typeof useTeach>
