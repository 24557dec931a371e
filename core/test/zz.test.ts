import { it } from 'vitest'
import { newEffect } from '@oleaje/core/project/new'
import { engineOf, projectOf } from './project-rig'
import { effectRig, peak } from './rig'
it('v', () => {
  const x = new Float32Array(48000 * 2); x.fill(0.9, 401, 401 + 24)
  console.log('OUT rig', peak(effectRig('varispeed', {}).run(x).left))
  const e = engineOf(projectOf(x, [newEffect('varispeed', {}, 'e')]))
  const l = new Float32Array(128), r = new Float32Array(128)
  for (let b = 0; b < 8; b++) { e.process(l, r); const s = (e as any).plan.steps.get('node:e'); console.log('OUT', b, peak((e as any).plan.steps.get('source:t').out.left), peak(s.out.left), s.turn.end, s.asleep, s.processor.readouts[1], s.processor.readouts[0]) }
})
