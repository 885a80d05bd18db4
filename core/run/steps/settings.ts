import type { StepAct } from '../step-context'

/** PRACTICE G3: settings that an update erases are kept by the person's own hands, or that is waived by name before. */
export const settings: StepAct = async ({ family, ask, releases, wake, step }) => {
  const due = family.backup?.settings
  if (!due) return
  const waiver = releases.find(({ rule }) => rule === 'settings-backup')
  if (waiver) {
    const says = `No backup of the settings: waived by ${waiver.name}, ${waiver.reason}.`
    return wake.record({ type: 'note', step, says })
  }
  await ask({ id: 'settings', says: due.says, answers: [{ id: 'done', says: 'They are kept' }] })
}
