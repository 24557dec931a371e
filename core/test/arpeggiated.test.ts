import { expect, it } from 'vitest'
import { arpeggiated } from '@oleaje/core/engine/arpeggiated'
import { arpeggioSchema } from '@oleaje/core/project/schema'

it('an arpeggio is kept as the notes that it plays', () => {
  const line = {
    length: 6,
    bend: [],
    pressure: [],
    notes: [60, 64, 67].map((pitch) => ({ start: 0, length: 6, pitch, velocity: 0.8 })),
  }
  const notes = arpeggiated(
    line,
    arpeggioSchema.parse({
      step: 1.5,
      octaves: 2,
      gate: 0.5,
      steps: [
        { transpose: 0, velocity: 1 },
        { transpose: 0, velocity: 0.5 },
      ],
    }),
    107,
  )
  expect(notes.map((n) => [n.start, n.pitch, n.velocity])).toEqual([
    [0, 60, 0.8],
    [1.5, 64, 0.4],
    [3, 67, 0.8],
    [4.5, 72, 0.4],
  ])
  for (const n of notes) expect(n.length).toBeCloseTo(0.75, 3)
})
