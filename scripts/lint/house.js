import { boundaries } from './boundaries.js'
import { documented } from './documented.js'
import { written } from './written.js'

/** Rules of this project alone, for both linters: one reads scripts, the other screens. */
export default { meta: { name: 'house' }, rules: { boundaries, documented, written } }
