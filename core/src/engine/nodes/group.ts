import { type Group, groupParams } from '../../project/nodes/group'
import { containerEngine } from './container'

/** Effects held together: one on/off and one wet around them. */
export const groupEngine = containerEngine<Group>(groupParams)
