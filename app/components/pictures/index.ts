import type { NodeBase } from '@oleaje/core/project/nodes/node-kind'
import type { Component } from 'vue'
import ControllerEditor from './ControllerEditor.vue'
import InputControls from './InputControls.vue'
import KeyStrip from './KeyStrip.vue'
import KitPads from './KitPads.vue'
import PosesStrip from './PosesStrip.vue'
import MorphPlane from './MorphPlane.vue'
import StepsEditor from './StepsEditor.vue'
import TrackChoice from './TrackChoice.vue'
import CompressorPicture from './CompressorPicture.vue'
import ConvolverPicture from './ConvolverPicture.vue'
import CentsPicture from './CentsPicture.vue'
import EchoField from './EchoField.vue'
import FilterPicture from './FilterPicture.vue'
import GainPicture from './GainPicture.vue'
import GainTracePicture from './GainTracePicture.vue'
import GrainPicture from './GrainPicture.vue'
import ResponsePicture from './ResponsePicture.vue'
import ReverbPicture from './ReverbPicture.vue'
import ShiftPicture from './ShiftPicture.vue'
import ShaperPicture from './ShaperPicture.vue'
import StereoPicture from './StereoPicture.vue'
import StutterPicture from './StutterPicture.vue'
import SwingPicture from './SwingPicture.vue'
import TransferPicture from './TransferPicture.vue'
import VocoderPicture from './VocoderPicture.vue'
import VowelPicture from './VowelPicture.vue'
import WavePicture from './WavePicture.vue'
import { stringMarks, tuningMarks } from './response-marks'
import * as traces from './traces'
import { crushCurve, driveCurve, foldCurve, foldThresholds } from './transfer-curves'

/** An effect's picture, what it is given beside the effect's id, and an editor of its own beneath it. */
interface EffectFace {
  readonly picture: Component
  readonly props?: Readonly<Record<string, unknown>>
  readonly below?: Component
}
/** A modulator's small picture, and an editor of its own. */
interface ModulatorFace {
  readonly trace: traces.Trace
  readonly editor?: Component
}
/** Controls of a source that are no parameters; what stands in place of its picture, and beneath it. */
interface SourceFace {
  readonly controls?: Component
  readonly picture?: Component
  readonly below?: Component
}
/**
 * How the chart draws a node: a plate across the water, a fork where it parts, a frame around a stretch of
 * it, a ring of water that runs back.
 */
type NodeShape = 'plate' | 'fork' | 'frame' | 'ring'

/**
 * Pictures and editors of effects, modulators, sources and kinds of nodes: one line each. What has none here
 * still has its gauges.
 */
const effects: Readonly<Record<string, EffectFace>> = {
  'gain': { picture: GainPicture },
  'stereo': { picture: StereoPicture },
  'tremolo': { picture: GainTracePicture },
  'filter': { picture: FilterPicture },
  'eq': { picture: ResponsePicture, below: PosesStrip },
  'vowel': { picture: VowelPicture },
  'vocoder': { picture: VocoderPicture },
  'all-pass': { picture: ResponsePicture },
  'comb': { picture: ResponsePicture, props: { marks: tuningMarks } },
  'resonators': { picture: ResponsePicture, props: { marks: stringMarks } },
  'phaser': { picture: ResponsePicture },
  'drive': { picture: TransferPicture, props: { curve: driveCurve } },
  'folder': { picture: TransferPicture, props: { curve: foldCurve, thresholds: foldThresholds } },
  'shaper': { picture: ShaperPicture },
  'crush': { picture: TransferPicture, props: { curve: crushCurve } },
  'ring': { picture: WavePicture },
  'noise-layer': { picture: WavePicture },
  'compressor': { picture: CompressorPicture },
  'gate': { picture: GainTracePicture },
  'limiter': { picture: GainTracePicture },
  'transient': { picture: GainTracePicture },
  'delay': { picture: EchoField },
  'taps': { picture: EchoField },
  'chorus': { picture: SwingPicture },
  'flanger': { picture: SwingPicture },
  'wow': { picture: CentsPicture, props: { param: 'depth', unit: 1, from: 'cents' } },
  'varispeed': { picture: CentsPicture, props: { param: 'speed', unit: 4, from: 'speed' } },
  'stutter': { picture: StutterPicture },
  'grains': { picture: GrainPicture },
  'pitch': { picture: CentsPicture, props: { param: 'pitch', unit: 24, from: 'cents' } },
  'frequency-shift': { picture: ShiftPicture },
  'reverb': { picture: ReverbPicture },
  'convolver': { picture: ConvolverPicture },
}
const modulators: Readonly<Record<string, ModulatorFace>> = {
  'lfo': { trace: traces.lfoTrace },
  'drift': { trace: traces.driftTrace },
  'steps': { trace: traces.stepsTrace, editor: StepsEditor },
  'envelope': { trace: traces.envelopeTrace },
  'follower': { trace: traces.followerTrace },
  'curve': { trace: traces.curveTrace },
  'notes': { trace: traces.notesTrace },
  'controller': { trace: traces.handTrace, editor: ControllerEditor },
  'pitch-tracker': { trace: traces.pitchTrace },
  'macro': { trace: traces.handTrace },
  'morph': { trace: traces.trailTrace, editor: MorphPlane },
}
const sources: Readonly<Record<string, SourceFace>> = {
  input: { controls: InputControls },
  kit: { picture: KitPads },
  played: { below: KeyStrip },
  track: { controls: TrackChoice },
}
const nodes: Readonly<Record<string, NodeShape>> = {
  'effect': 'plate',
  'split': 'fork',
  'group': 'frame',
  'loop-back': 'ring',
}

export const effectFace = (type: string): EffectFace | undefined => effects[type]
export const modulatorFace = (type: string): ModulatorFace => modulators[type] ?? { trace: traces.trailTrace }
export const sourceFace = (type: string): SourceFace => sources[type] ?? {}
export const nodeShape = (node: Pick<NodeBase, 'kind'>): NodeShape => nodes[node.kind] ?? 'frame'
