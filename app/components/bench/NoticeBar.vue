<script setup lang="ts">
import { splitGaugeKey, targetAt } from '@oleaje/core/project/param-path'
import { findTarget, ownerName, paramName } from '@oleaje/core/project/targets'
import { setParam } from '@oleaje/core/project/value-edits'
import { findOwner } from '@oleaje/core/project/walk'
import { computed } from 'vue'
import { useSession } from '../../composables/useSession'

/**
 * States that are temporary and must not be forgotten: a modulator heard alone, a macro that learns, a ride,
 * a control being learnt.
 */
const { doc, host, automation, selection, monitoring, devices, recording, offers, notices, guards } =
  useSession()
const modulator = (id: string | null): string =>
  doc.project?.tracks.flatMap((t) => t.modulators).find((m) => m.id === id)?.name ?? ''
const gauge = (key: string): string => {
  const [owner, path] = splitGaugeKey(key)
  const found = doc.project && findTarget(doc.project, targetAt(owner, path))
  return found ? `${paramName(found.owner, path).toLowerCase()} of ${ownerName(found.owner)}` : ''
}
/** Names of the monitored parts. */
const heard = computed(() => {
  const owner = (id: string): string => {
    const found = doc.project && findOwner(doc.project, id)
    return found ? ownerName(found) : ''
  }
  return [
    monitoring.hearDry && 'the dry track',
    monitoring.upTo && `the chain up to ${owner(monitoring.upTo)}`,
    monitoring.part &&
      (monitoring.part.what === 'wet'
        ? `the wet signal of ${owner(monitoring.part.node)}`
        : `the difference of ${owner(monitoring.part.node)}`),
    monitoring.soloItems &&
      `band ${monitoring.soloItems.chosen
        .map((i) => i + 1)
        .sort()
        .join(', ')} of ${owner(monitoring.soloItems.node)}`,
    monitoring.soloBranches.length > 0 && `branch ${monitoring.soloBranches.map(owner).join(', ')}`,
    monitoring.soloTracks.length > 0 &&
      `track ${monitoring.soloTracks.map((id) => doc.project?.tracks.find((t) => t.id === id)?.name ?? '').join(', ')}`,
  ].filter((v): v is string => typeof v === 'string')
})
const learning = computed(() => selection.learning)
const isShown = computed(
  () =>
    heard.value.length > 0 ||
    [
      guards.last,
      guards.failed,
      notices.howls,
      notices.noOutput,
      notices.bringing,
      notices.overBudget,
      offers.standing,
      monitoring.alone,
      selection.learning,
      recording.recordingAutomation,
      devices.controlFor,
      devices.typesNotes,
      notices.rings,
      selection.repointing,
    ].some(Boolean),
)

function learn(end: 'from' | 'to'): void {
  const l = learning.value
  if (!l) return
  doc.edit('Move macro', setParam(l.macro, 'value', end === 'to' ? 1 : 0))
  selection.learning = { ...l, end }
}
</script>

<template>
  <div
    v-if="isShown"
    role="status"
    class="flex flex-wrap items-center gap-x-4 border-b border-line bg-shoal px-4 py-1 text-small"
  >
    <span v-if="notices.noOutput" role="alert" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 bg-magenta" /> No audio output. Check your output device, then click Try again.
      <button class="small-button" title="Reopens the audio output" @click="host.tryAgain()">
        Try again
      </button>
    </span>
    <span v-if="guards.last" role="alert" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 bg-magenta" />
      {{ guards.last.name }} on {{ guards.last.track }} became unstable and was bypassed. It resumes after its
      input has been quiet for a second, or when you click Resume.
      <button
        class="small-button"
        title="Shows the effect on its track"
        @click="guards.show(guards.last.node)"
      >
        Go to it
      </button>
      <button
        class="small-button"
        title="Turns the effect back on at once"
        @click="guards.letGo(guards.last.node)"
      >
        Resume
      </button>
    </span>
    <span v-if="guards.failed" role="alert" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 bg-magenta" />
      {{ guards.failed.name }} on {{ guards.failed.track }} failed and was bypassed. Remove it, or undo the
      last change.
      <button
        class="small-button"
        title="Shows the effect on its track"
        @click="guards.show(guards.failed.node)"
      >
        Go to it
      </button>
      <button class="small-button" title="Dismisses this message" @click="notices.failed = null">
        Dismiss
      </button>
    </span>
    <span v-if="notices.howls" role="alert" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 bg-magenta" />
      The output feeds back into the input{{ guards.howling ? ` of ${guards.howling.name}` : '' }}
      and was lowered for a moment. Use headphones, lower the input gain, or turn monitoring off.
      <button
        v-if="guards.howling"
        class="small-button"
        title="Shows the track with the live input"
        @click="guards.showTrack(guards.howling.id)"
      >
        Go to it
      </button>
      <button class="small-button" title="Dismisses this message" @click="notices.howls = false">
        Dismiss
      </button>
    </span>
    <span v-if="notices.bringing" class="flex items-center gap-2">
      Importing “{{ notices.bringing.name }}”
      <progress
        class="w-32"
        :value="notices.bringing.done"
        :aria-label="`Importing ${notices.bringing.name}`"
      />
      {{ Math.round(notices.bringing.done * 100) }} %
      <button class="small-button" title="Cancels the import" @click="notices.bringing.stop()">Stop</button>
    </span>
    <span v-if="notices.overBudget" class="flex items-center gap-2"
      ><span class="h-2.5 w-2.5 bg-magenta" /> {{ notices.overBudget }}</span
    >
    <span v-if="heard.length" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 bg-magenta" /> Monitoring {{ heard.join(' and ') }} only. Renders are not
      affected.
      <button
        class="small-button"
        title="Monitors the whole mix again (Shift+H)"
        @click="monitoring.hearAll()"
      >
        Monitor all
      </button></span
    >
    <span v-if="offers.standing" class="flex items-center gap-2">
      {{ offers.standing.text }}
      <button class="small-button" :title="offers.standing.tip" @click="offers.settle(true)">
        {{ offers.standing.button }}
      </button>
      <button class="small-button" title="Dismisses this message" @click="offers.settle(false)">
        Dismiss
      </button>
    </span>
    <span v-if="learning" class="flex items-center gap-2">
      <b class="water-name text-name"> {{ modulator(learning.macro) }}</b>
      learns its {{ learning.end === 'to' ? 'maximum' : 'minimum' }}. Set every gauge to its value there.
      <button class="small-button" :aria-pressed="learning.end === 'from'" @click="learn('from')">
        Minimum
      </button>
      <button class="small-button" :aria-pressed="learning.end === 'to'" @click="learn('to')">Maximum</button>
      <button class="small-button" title="Ends learning (Esc)" @click="selection.learning = null">
        Done
      </button>
    </span>
    <span v-if="recording.recordingAutomation" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 rounded-full bg-magenta" />
      Recording a ride of {{ gauge(recording.recordingAutomation)
      }}{{ monitoring.playing ? '' : '. Press Play to start' }}
      <button class="small-button" title="Ends the ride (W)" @click="automation.end()">Stop</button></span
    >
    <span v-if="selection.repointing" class="flex items-center gap-2">
      Click the gauge to link to
      <b class="water-name text-name">{{ modulator(selection.repointing) }}</b> instead.
      <button class="small-button" title="Cancels relinking (Esc)" @click="selection.repointing = null">
        Cancel
      </button></span
    >
    <span v-if="monitoring.alone" class="flex items-center gap-2">
      <b class="water-name text-name">{{ modulator(monitoring.alone) }}</b> is soloed; the other modulators
      stand still.
      <button class="small-button" title="Monitors all modulators again (O)" @click="monitoring.alone = null">
        All
      </button></span
    >
    <span v-if="devices.typesNotes" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 rounded-full bg-magenta" />
      The computer keyboard plays notes from C{{ devices.typedOctave }}. Page Up and Page Down change the
      octave.
      <button
        class="small-button"
        title="Turns letters into shortcuts again (Shift+P)"
        @click="devices.typesNotes = false"
      >
        Stop
      </button></span
    >
    <span v-if="notices.rings" role="alert" class="flex items-center gap-2">
      <span class="h-2.5 w-2.5 bg-magenta" /> A feedback loop is still sounding after Stop. Lower its
      feedback, or stop all tails.
      <button class="small-button" title="Stops everything that rings (Q)" @click="host.silence()">
        Stop all tails
      </button></span
    >
    <span v-if="devices.controlFor" class="flex items-center gap-2">
      Move a control, play a note or press a key to assign it to {{ gauge(devices.controlFor) }}.
      <button class="small-button" title="Cancels the assignment (Esc)" @click="devices.controlFor = null">
        Cancel
      </button></span
    >
  </div>
</template>
