import { vowelNear } from '@oleaje/core/effects/vowel'
import { noteName } from '@oleaje/core/units/text'
import { type Sheet, line } from './profile'

/** What a response picture gives to its marks: the present values and lanes. */
export interface MarkContext {
  readonly g: CanvasRenderingContext2D
  readonly sheet: Sheet
  readonly color: (name: string) => string
  readonly values: Readonly<Record<string, number>>
  readonly lanes: Readonly<Record<string, readonly Readonly<Record<string, number>>[]>> | undefined
  readonly readout: (name: string) => number
}
export type ResponseMarks = (context: MarkContext) => void

/** The vowel that is nearest to what sounds. */
export const vowelMarks: ResponseMarks = ({ g, sheet: s, values, readout }) => {
  const size = values.size ?? 1
  g.font = 'italic 26px Newsreader'
  g.fillText(
    `[${vowelNear(readout('first') * size || 500, readout('second') * size || 1500)}]`,
    (s.left + s.right) / 2,
    s.top + 4,
  )
}

/** The notes of strings. */
export const stringMarks: ResponseMarks = ({ g, sheet: s, color, values, lanes }) => {
  for (const [i, v] of (lanes?.voices ?? []).entries()) {
    const hz = 440 * 2 ** (((v.note ?? 50) + (values.transpose ?? 0) - 69) / 12)
    const x = s.x(hz)
    g.strokeStyle = color('second')
    g.setLineDash([2, 3])
    line(g, x, s.top + 16, x, s.bottom)
    g.setLineDash([])
    g.fillText(noteName(hz), x, s.top + (i % 2) * 13)
  }
}

/** The note of one frequency. */
export const tuningMarks: ResponseMarks = ({ g, sheet: s, values }) => {
  g.fillText(noteName(values.frequency ?? 220), s.x(values.frequency ?? 220), s.top + 4)
}
