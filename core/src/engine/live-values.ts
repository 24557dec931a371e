import { stereoBlock } from '../contract/block'
import type { FaderStep } from './fader-step'
import type { ModulatorStep } from './modulator-step'
import type { Plan } from './plan'
import { Probe } from './probe'
import { Report } from './report'
import type { Step } from './step'
import type { StepCosts } from './step-costs'
import { type SlotMap, type TelemetryMemory, fixedSlot } from './telemetry'
import type { Transport } from './transport'

/**
 * Blocks after which live values get new places: not within the block of an edit, which has enough to
 * do.
 */
const REPORT_AFTER = 2

const silence = stereoBlock()

/** Reports of the playing engine: live values of the steps, song position, loudness, ring buffers. */
export class LiveValues {
  /** Counts how often the places of live values have been reassigned. */
  renewals = 0
  /** The track and modulator of the listening views. */
  probed: { readonly fader: FaderStep; readonly modulator: ModulatorStep | null } | null = null
  readonly probe: Probe
  private blocks = 0
  /** Blocks until live values are given their places; 0 for no need. */
  private due = 0
  private readonly report: Report

  /** @param every blocks between two writings of what steps tell */
  constructor(
    sampleRate: number,
    private readonly memory: TelemetryMemory,
    private readonly every: number,
  ) {
    this.report = new Report(memory.values)
    this.probe = new Probe(sampleRate, memory)
  }

  get slots(): SlotMap {
    return this.report.slots
  }

  /** Schedules new places for live values, with the next block or a little later. */
  renew(at: 'next' | 'soon'): void {
    this.due = at === 'next' ? 1 : REPORT_AFTER
  }

  /** Gives live values their places where that is due. */
  follow(plan: Plan | null, running: readonly Step[], costs: StepCosts | null): void {
    if (this.due === 0 || --this.due > 0) return
    if (plan) this.report.follow(plan, running, costs)
    this.renewals++
  }

  /** Counts a block in which nothing is worked out. */
  goOn(): void {
    this.memory.values[fixedSlot.blocks] = ++this.blocks
  }

  /** Writes what is new of this block. */
  write(transport: Transport, gain: number, latency: number): void {
    const { memory, probe, probed } = this
    const { values } = memory
    if (this.blocks % this.every === 0) this.report.write()
    if (probed)
      probe.process(
        probed.fader.dry?.source ?? silence,
        probed.fader.out,
        probed.modulator?.outputs[0] ?? null,
      )
    this.goOn()
    const { dry, wet } = probe
    values[fixedSlot.beat] = transport.beat
    values[fixedSlot.playing] = transport.playing ? 1 : 0
    values[fixedSlot.limiter] = gain
    values[fixedSlot.latency] = latency
    values[fixedSlot['dry momentary']] = dry.momentary
    values[fixedSlot['dry short']] = dry.shortTerm
    values[fixedSlot['wet momentary']] = wet.momentary
    values[fixedSlot['wet short']] = wet.shortTerm
    if (this.blocks % 64 === 0) values[fixedSlot['wet integrated']] = wet.integrated
    values[fixedSlot['true peak']] = probe.truePeak
  }
}
