import { heardChain, nodesIn } from '@oleaje/core/project/walk'
import { setParam } from '@oleaje/core/project/value-edits'
import { describe, expect, it } from 'vitest'
import { edited } from '../../core/test/project-rig'
import { RATE, db, peak, rms } from '../../core/test/rig'
import { LoudnessMeter } from '@oleaje/core/dsp/loudness'
import { alone, demoProject, demoSound, record } from './demo-rig'

const studies = demoProject('time-studies')
const night = demoProject('night-ferry')
/** The file of each track's sound, by its hash in the catalogue's order. */
const files: Record<string, string> = {
  'shimmer': 'fog-pad',
  'spiral': 'galley-keys',
  'cascade': 'deck-kit',
  'tape-stop': 'deck-kit',
  'half': 'deck-kit',
  'reverse': 'rope-guitar',
  'slower': 'deck-snare',
  'scratch': 'foghorn-voice',
  'chorus-parts': 'galley-keys',
  'worn': 'galley-keys',
  'cloud': 'deck-snare',
  'blur': 'deck-kit',
  'metal-rain': 'deck-hat',
  'living': 'rope-guitar',
  'barber': 'fog-pad',
  'ducked': 'foghorn-voice',
}
const asMade = new Map<string, Float32Array>()
function heard(id: string, change?: (p: ReturnType<typeof alone>) => ReturnType<typeof alone>): Float32Array {
  const known = change ? undefined : asMade.get(id)
  if (known) return known
  const project = alone(studies, id)
  const { left } = record(change?.(project) ?? project, 9, { sounds: { [id]: demoSound(files[id] ?? '') } })
  if (!change) asMade.set(id, left)
  return left
}

describe('every way of time is worth hearing', () => {
  it.each(studies.tracks.filter((t) => t.kind !== 'mix').map((t) => t.id))(
    '%s: a sensible level, nothing over, no dead air',
    (id) => {
      const y = heard(id).slice(RATE / 2)
      expect(db(peak(y)), 'peak').toBeLessThan(1)
      expect(db(rms(y)), 'level').toBeGreaterThan(-44)
      expect(db(rms(y))).toBeLessThan(-8)
      let quiet = 0
      for (let at = 0; at + RATE < y.length; at += RATE) if (db(rms(y.slice(at, at + RATE))) < -60) quiet++
      expect(quiet, 'seconds of silence').toBeLessThanOrEqual(2)
    },
  )
  // what waits for a hand changes nothing by itself
  it.each(Object.keys(files).filter((id) => id !== 'blur' && id !== 'scratch'))(
    '%s: without its effects it sounds otherwise',
    (id) => {
      const track = studies.tracks.find((t) => t.id === id)
      const off = [...nodesIn(heardChain(track!).nodes)].map((n) => setParam(n.id, 'on', 0))
      const y = heard(id),
        dry = heard(id, (p) => edited(p, ...off))
      expect(db(rms(y.map((v, i) => v - dry[i]!)) / rms(dry))).toBeGreaterThan(-30)
    },
  )
  it('pre-drop blur, held: bounded, and as loud as it says', () => {
    const y = heard('blur', (p) =>
      edited(p, setParam('before', 'value', 1), setParam('blur-delay', 'feedback', 0.95)),
    )
    expect(db(peak(y))).toBeLessThan(1)
    const meter = new LoudnessMeter(RATE)
    meter.process(y, y)
    expect(meter.integrated).toBeGreaterThan(-36)
    expect(meter.integrated).toBeLessThan(-6)
  })
  it('has the sixteen chains, and the night ferry still has its own', () => {
    expect(studies.tracks.length).toBe(17)
    expect(night.tracks.length).toBeGreaterThan(4)
  })
})
