import type { EffectDefinition } from './contract/effect'
import type { ModulatorDefinition } from './contract/modulator'
import type { SourceDefinition } from './contract/source'
import { effects } from './effects/index'
import { modulators } from './modulators/index'
import { sources } from './sources/index'
import { type ParamSpec, type ParamSpecs, isStepped } from './units/parameter'
import { formatValue } from './units/text'

/** The pages of docs/reference that follow from the definitions, by file name. */
export function referencePages(): Record<string, string> {
  return {
    'effects.md': page(
      'Effects',
      'Every effect also has **Wet** (balance of dry and processed sound) and **On**.',
      effects.map(effectSection),
    ),
    'modulators.md': page(
      'Modulators',
      'Link a modulator to any parameter. Its own parameters can be linked as well.',
      modulators.map(modulatorSection),
    ),
    'sources.md': page('Sources', 'A source is what a track plays.', sources.map(sourceSection)),
  }
}

const page = (title: string, intro: string, sections: readonly string[]): string =>
  `# ${title}\n\n${intro} This page is generated from the definitions by \`npm run reference\`.\n\n${sections.join('\n')}`

const cell = (text: string): string => text.replaceAll('|', '\\|')
const rangeOf = (p: ParamSpec): string =>
  p.unit === 'toggle'
    ? 'on, off'
    : isStepped(p)
      ? (p.choices ?? []).join(', ')
      : `${formatValue(p, p.min)}${p.zero && p.min === 0 ? ', up' : ''} to ${formatValue(p, p.max)}`

function table(specs: ParamSpecs): string {
  const rows = Object.values(specs).map(
    (p) => `| ${cell(p.name)} | ${cell(rangeOf(p))} | ${cell(formatValue(p, p.default))} | ${cell(p.tip)} |`,
  )
  return `| Parameter | Range | Default | What it does |\n|---|---|---|---|\n${rows.join('\n')}\n`
}

/** The parameters of each item of its lanes: bands, taps, steps. */
const lanesOf = (lanes: EffectDefinition['lanes']): string =>
  Object.values(lanes ?? {})
    .map((lane) => `\n${lane.name}, ${lane.least} to ${lane.most}:\n\n${table(lane.params)}`)
    .join('')

function effectSection(e: EffectDefinition): string {
  const presets = (e.presets ?? []).map((p) => (p.tip ? `${p.name} (${p.tip})` : p.name)).join(' · ')
  const latency = e.latency?.(48_000) ?? 0
  return [
    `## ${e.name}\n\n${e.tip}.\n\n${table(e.params)}${lanesOf(e.lanes)}`,
    e.sidechain ? 'Sidechain: any track.\n' : '',
    latency > 0 ? `Latency at 48 kHz: ${latency} samples, compensated.\n` : '',
    presets ? `Presets: ${presets}.\n` : '',
  ]
    .filter(Boolean)
    .join('\n')
}

const modulatorSection = (m: ModulatorDefinition): string =>
  `## ${m.name}\n\n${m.tip}. Outputs: ${m.outputs.join(', ')}.\n\n${table(m.params)}${lanesOf(m.lanes)}`

const sourceSection = (s: SourceDefinition): string =>
  `## ${s.name}\n\n${s.tip}.\n\n${table(s.params)}${lanesOf(s.lanes)}`
