import { describe, expect, it } from 'vitest'
import { type Pose, poseHeard, readPoses, spaced } from '@oleaje/core/effects/eq-poses'
import { together } from '@oleaje/core/project/edit'
import { newEffect } from '@oleaje/core/project/new'
import type { Project } from '@oleaje/core/project/schema'
import { addLaneItem, removeLaneItem, setData, setParam } from '@oleaje/core/project/value-edits'
import { edited, play, projectOf } from './project-rig'
import { RATE, rms, sine } from './rig'

const made = projectOf(sine(500, 3, 0.2), [
  {
    ...newEffect('eq', {}, 'e'),
    lanes: {
      bands: [
        { frequency: 500, gain: 0, q: 2 },
        { frequency: 4000, gain: 0 },
      ],
    },
  },
])
const bands = (p: Project): Record<string, number>[] => p.tracks[0]!.a.nodes[0]!.lanes!.bands!
const poses = (p: Project): Pose[] => readPoses(p.tracks[0]!.a.nodes[0]!.data?.poses)
const pose = (gain: number, frequency = 500): Pose => ({
  at: 0,
  ease: 0,
  bands: [
    { frequency, gain, q: 2 },
    { frequency: 4000, gain: -gain, q: 1 },
  ],
})
const three = edited(
  made.project,
  together(setData('e', 'poses', spaced([pose(-12), pose(6, 800), pose(12)])), setParam('e', 'travel', 0)),
)

describe('poses of an EQ', () => {
  it('space themselves, and the one that is heard is where travel stands, or the nearer one', () => {
    expect(poses(three).map((p) => p.at)).toEqual([0, 0.5, 1])
    expect([0, 0.2, 0.3, 0.74, 0.76, 1].map((t) => poseHeard(poses(three), t))).toEqual([0, 0, 1, 1, 2, 2])
  })
  it('show on the gauges of the bands what is heard, also between two', () => {
    expect(bands(three)[0]).toMatchObject({ frequency: 500, gain: -12 })
    const half = bands(edited(three, setParam('e', 'travel', 0.25)))[0]!
    expect(half.gain).toBeCloseTo(-3, 9)
    expect(half.frequency).toBeCloseTo(Math.sqrt(500 * 800), 6)
  })
  it('are set by the gauges of the bands: that which is heard, and no other', () => {
    const set = edited(
      edited(three, setParam('e', 'travel', 0.5)),
      together(setParam('e', 'bands[0].gain', 9), setParam('e', 'bands[1].frequency', 3000)),
    )
    expect(poses(set).map((p) => p.bands[0]!.gain)).toEqual([-12, 9, 12])
    expect(poses(set)[1]!.bands[1]!.frequency).toBeCloseTo(3000, 6)
  })
  it('are set between two so that what was asked for is what is heard', () => {
    for (const travel of [0.2, 0.35, 0.7]) {
      const p = edited(
        edited(three, setParam('e', 'travel', travel)),
        together(setParam('e', 'bands[0].gain', 1.5), setParam('e', 'bands[0].frequency', 640)),
      )
      const again = edited(p, setParam('e', 'travel', travel))
      expect(bands(again)[0]!.gain).toBeCloseTo(1.5, 6)
      expect(bands(again)[0]!.frequency).toBeCloseTo(640, 6)
    }
  })
  it('move all bands of the pose that is heard together', () => {
    const p = edited(three, setParam('e', 'bands[*].gain', 3))
    expect(poses(p)[0]!.bands.map((b) => Math.round(b.gain * 1e6) / 1e6)).toEqual([-9, 15])
  })
  it('have a band more or less each when one comes or goes', () => {
    const more = edited(three, addLaneItem('e', 'bands', 0))
    expect(poses(more).map((p) => p.bands.length)).toEqual([3, 3, 3])
    expect(poses(more)[0]!.bands.map((b) => b.gain)).toEqual([-12, 0, 12])
    const less = edited(more, removeLaneItem('e', 'bands', 0))
    expect(poses(less)[2]!.bands.map((b) => b.gain)).toEqual([0, -12])
  })
  it('sound as their gauges say', () => {
    const level = (p: Project): number =>
      20 * Math.log10(rms(play({ ...made, project: p }, 1).left.slice(RATE / 2)) / (0.2 / Math.SQRT2))
    expect(level(three)).toBeCloseTo(-12, 0)
    expect(level(edited(three, setParam('e', 'bands[0].gain', 7)))).toBeCloseTo(7, 0)
    expect(level(edited(three, setParam('e', 'travel', 1)))).toBeCloseTo(12, 0)
  })
})

describe('a new band', () => {
  it('stands in the middle of the widest gap, flat', () => {
    const p = edited(made.project, addLaneItem('e', 'bands', 1))
    expect(bands(p)[2]).toMatchObject({ gain: 0, kind: 0 })
    // between 20 Hz and 500 Hz
    expect(bands(p)[2]!.frequency).toBeCloseTo(Math.sqrt(20 * 500), 6)
    const again = edited(p, addLaneItem('e', 'bands', 2))
    expect(bands(again)[3]!.frequency).toBeCloseTo(Math.sqrt(500 * 4000), 6)
  })
})
