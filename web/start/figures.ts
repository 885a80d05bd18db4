/** How figures are written: a browser takes its time over the first of them. */
export { fixedText } from '@bench-wake/core/kernel'
