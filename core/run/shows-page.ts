import type { DrivenLink } from '../family'

/** Whether a link reads nothing of what the firmware says of itself: a script without `page`. The person looks then. */
export const showsNoPage = ({ drive }: DrivenLink): boolean =>
  drive.speaks === 'script' && drive.operations.page === undefined
