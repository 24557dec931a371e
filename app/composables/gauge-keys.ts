import type { useSelection } from '../stores/selection'
import type { useParam } from './useParam'

/** Actions of a gauge: opens its field, lists modulators. */
interface Ways {
  readonly type: () => unknown
  readonly ask: () => void
}

/** Does what a key does on gauges of every kind. False where it is none of theirs. */
export function pressGaugeKey(
  key: string,
  p: ReturnType<typeof useParam>,
  selection: Pick<ReturnType<typeof useSelection>, 'repointing' | 'inHand'>,
  ways: Ways,
): boolean {
  switch (key) {
    case 'ArrowRight':
    case 'ArrowUp':
      p.step(1)
      return true
    case 'ArrowLeft':
    case 'ArrowDown':
      p.step(-1)
      return true
    case 'Home':
      p.setAt(0)
      return true
    case 'End':
      p.setAt(1)
      return true
    case 'Backspace':
    case 'Delete':
      p.reset()
      return true
    case 'Enter':
      if (selection.repointing) p.repoint()
      else if (selection.inHand) p.link(selection.inHand)
      else ways.type()
      return true
    case 'm':
    case 'M':
      ways.ask()
      return true
    default:
      return false
  }
}
