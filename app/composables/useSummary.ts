import type { Summary } from '@oleaje/core/contract/summary'
import { modulatorDefinition } from '@oleaje/core/modulators/index'
import type { Modulator, Project, Track } from '@oleaje/core/project/schema'
import { itemsOf } from '@oleaje/core/project/targets'
import type { Owner } from '@oleaje/core/project/walk'
import { waysOf } from '@oleaje/core/project/routing'
import { sourceDefinition } from '@oleaje/core/sources/index'
import type { ParamSpecs } from '@oleaje/core/units/parameter'
import { formatValue } from '@oleaje/core/units/text'
import { controlName } from '../services/device-router'

/** Data for the summary line of an object in a project. */
function summaryOf(
  project: Project,
  owner: Owner,
  params: ParamSpecs,
  values: Readonly<Record<string, number>>,
): Pick<Summary, 'value' | 'text' | 'count'> {
  const value = (param: string): number => values[param] ?? params[param]?.default ?? 0
  return {
    value,
    text: (param) => (params[param] ? formatValue(params[param], value(param)) : ''),
    count: (lane) => itemsOf(owner, lane).length,
  }
}

const nothing = { listens: '', inputs: [], sound: '', bars: 0, control: '', device: '' }

/** The line under a modulator's name. */
export function modulatorSummary(project: Project, track: Track, modulator: Modulator): string {
  const definition = modulatorDefinition(modulator.type)
  if (!definition) return modulator.type
  const modulators = project.tracks.flatMap((t) => t.modulators)
  const control = project.controls.find(
    (c) => c.target.owner === modulator.id && c.target.param === definition.learns,
  )
  return (
    definition.summary?.({
      ...nothing,
      ...summaryOf(project, { kind: 'modulator', modulator, track }, definition.params, modulator.params),
      listens: project.tracks.find((t) => t.id === modulator.listens?.track)?.name ?? '',
      inputs: modulator.inputs.map((i) => modulators.find((m) => m.id === i?.source)?.letter ?? '–'),
      control: control ? controlName(control.message) : '',
    }) ?? definition.name
  )
}

/** The line under a track's name: what it plays. */
export function sourceSummary(project: Project, track: Track): string {
  if (track.kind === 'mix') return 'all tracks'
  if (track.kind === 'bus')
    return (
      project.tracks
        .filter((t) => waysOf(project).some((way) => way.to === track.id && way.from === t.id))
        .map((t) => t.name)
        .join(', ') || 'nothing yet'
    )
  const { source } = track
  const definition = source && sourceDefinition(source.type)
  if (!source || !definition) return 'no source'
  const ref = source.audio ? project.audio[source.audio] : undefined
  const known = summaryOf(project, { kind: 'source', source, track }, definition.params, source.params)
  return (
    definition.summary?.({
      ...nothing,
      ...known,
      sound: ref?.name ?? '',
      bars: ref ? ((ref.frames / ref.sampleRate) * known.value('tempo')) / 60 / project.beatsPerBar : 0,
      listens: project.tracks.find((t) => t.id === source.listens?.track)?.name ?? '',
      device:
        source.device === 'microphone'
          ? 'microphone'
          : source.device === 'cable'
            ? 'simulated cable'
            : source.device === 'simulated'
              ? 'simulated input'
              : source.device
                ? 'input device'
                : '',
    }) ?? definition.name
  )
}
