// Installs what the tests talk to and this computer lacks; a process of its own, so that packages are installed meanwhile.
import { needPeers } from './need.mjs'

needPeers()
