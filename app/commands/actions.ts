import type { Session } from '../services/session'
import type { Action, ActionGroup } from './action'
import { chainActions } from './chain'
import { historyActions } from './history'
import { keepingActions } from './keeping'
import { listeningActions } from './listening'
import { motionActions } from './motion'
import { notesActions } from './notes'
import { tracksActions } from './tracks'
import { transportActions } from './transport'
import { viewsActions } from './views'

const groups: readonly ActionGroup[] = [
  transportActions,
  historyActions,
  chainActions,
  tracksActions,
  listeningActions,
  motionActions,
  notesActions,
  keepingActions,
  viewsActions,
]

/**
 * Everything that can be done by a key or found by its name; menus, the finder, shortcuts and tooltips are
 * made from it.
 */
export const actions = (session: Session): Action[] => groups.flatMap((group) => group(session))
