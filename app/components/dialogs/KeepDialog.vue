<script setup lang="ts">
import { computed, nextTick, onMounted, ref, watch } from 'vue'
import { RadioGroup, RadioGroupOption } from '../ui/parts/radio-group'
import { useSession } from '../../composables/useSession'
import { sentence } from '../../services/sentence'

/** Keeps what is selected, or the whole chain, on the shelf under a name, with tags for searching. */
const { doc, shelf, screen, selection } = useSession()
const asked = screen.toKeep
const chain = selection.track ? shelf.chainToKeep(selection.track.id) : undefined
/** The choices: the requested part, and the whole chain of the track if that is more. */
const scopes = [
  ...(asked ? [{ value: 'asked', text: asked.name, preset: asked }] : []),
  ...(chain && chain.chain.nodes.length > (asked?.chain.nodes.length ?? 0)
    ? [{ value: 'chain', text: 'Whole chain', preset: chain }]
    : []),
]
const scope = ref(scopes[0]?.value ?? '')
const toKeep = computed(() => scopes.find((s) => s.value === scope.value)?.preset)
const name = ref(asked?.name ?? '')
/** The name, which is typed next once a scope was clicked. */
const field = ref<HTMLInputElement | null>(null)
onMounted(() => void nextTick(() => field.value?.select()))
const about = ref(screen.toKeep?.about ?? '')
const tags = ref(screen.toKeep?.tags.join(', ') ?? '')
/** A name that was typed stays as the scope changes. */
watch(scope, (_, before) => {
  const old = scopes.find((s) => s.value === before)?.preset.name
  if (name.value === old) name.value = toKeep.value?.name ?? name.value
})
const count = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`

async function keep(): Promise<void> {
  const preset = toKeep.value
  if (!preset || !name.value.trim()) return
  try {
    await shelf.keep({
      ...preset,
      name: name.value.trim().slice(0, 120),
      about: about.value.trim().slice(0, 400),
      tags: tags.value
        .split(',')
        .map((t) => t.trim().slice(0, 40))
        .filter(Boolean)
        .slice(0, 20),
    })
    screen.dialog = ''
  } catch (error) {
    doc.trouble = `“${name.value}” was not kept: ${sentence(error)}`
  }
}
</script>

<template>
  <BaseDialog v-if="toKeep" title="Keep on shelf" @close="screen.dialog = ''">
    <form class="grid grid-cols-[80px_1fr] items-center gap-2" @submit.prevent="keep">
      <label for="keep-name">Name</label>
      <input id="keep-name" ref="field" v-model="name" class="field" maxlength="120" required />
      <template v-if="scopes.length > 1">
        <span class="text-second">Keep</span>
        <RadioGroup v-model="scope" class="flex" aria-label="What to keep">
          <RadioGroupOption
            v-for="s in scopes"
            :key="s.value"
            v-slot="{ checked }"
            as="template"
            :value="s.value"
          >
            <button
              type="button"
              class="segment"
              :class="checked ? 'bg-ink text-paper' : 'bg-sheet'"
              @click="void nextTick(() => field?.select())"
            >
              <span class="truncate">{{ s.text }}</span>
            </button>
          </RadioGroupOption>
        </RadioGroup>
      </template>
      <label for="keep-about">Description</label>
      <input
        id="keep-about"
        v-model="about"
        class="field"
        placeholder="One line of description"
        maxlength="400"
      />
      <label for="keep-tags">Tags</label>
      <input id="keep-tags" v-model="tags" class="field" title="Words to search for, separated by commas" />
      <span class="text-second">Contains</span>
      <span class="text-small">
        {{ count(toKeep.chain.nodes.length, 'effect') }}, {{ count(toKeep.modulators.length, 'modulator') }},
        {{ count(toKeep.links.length, 'link') }}
      </span>
      <span />
      <button
        class="plain-button justify-self-start"
        :disabled="!name.trim()"
        title="Saves the preset in this browser (Enter)"
      >
        Keep
      </button>
    </form>
  </BaseDialog>
</template>
