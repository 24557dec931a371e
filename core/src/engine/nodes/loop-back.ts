import type { LoopBack } from '../../project/nodes/loop-back'
import { containerEngine } from './container'

/** Passes the sound through what is inside it; nothing comes round yet. */
export const loopBackEngine = containerEngine<LoopBack>()
