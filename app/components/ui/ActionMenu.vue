<script setup lang="ts">
import { autoUpdate, flip, offset, shift, size, useFloating } from '@floating-ui/vue'
import { ref } from 'vue'
import { Menu, MenuButton, MenuItem, MenuItems } from './parts/menu'

/**
 * A menu of actions. It opens over the page, so that no panel clips it, and never over its own button. Groups
 * are divided by a line; what removes something stands last.
 */
export interface MenuAction {
  readonly text: string
  readonly run: () => void
  readonly tip?: string
  /** The key that does the same, as people read it. */
  readonly keys?: string
  /** Whether it is in force, for what can be switched. */
  readonly on?: boolean
  readonly disabled?: boolean
}
defineProps<{
  label: string
  tip: string
  groups: readonly (readonly MenuAction[])[]
  small?: boolean
  /** Classes of the button, where it looks unlike others. */
  look?: string
}>()

const anchor = ref<HTMLElement | null>(null)
const panel = ref<HTMLElement | null>(null)
const { floatingStyles } = useFloating(anchor, panel, {
  placement: 'bottom-end',
  strategy: 'fixed',
  middleware: [
    offset(4),
    flip(),
    shift({ padding: 8 }),
    size({
      padding: 8,
      apply: ({ availableHeight, elements }) => {
        elements.floating.style.maxHeight = `${availableHeight}px`
      },
    }),
  ],
  whileElementsMounted: autoUpdate,
})
</script>

<template>
  <Menu v-slot="{ open }" as="div" class="inline-flex">
    <span ref="anchor" class="inline-flex min-w-0" :class="look ? 'w-full' : ''">
      <MenuButton :class="look ?? (small ? 'small-button' : 'plain-button')" :aria-label="label" :title="tip"
        ><slot>⋯</slot></MenuButton
      >
    </span>
    <Teleport to="body">
      <div v-if="open" ref="panel" class="z-50" :style="floatingStyles">
        <MenuItems
          static
          class="max-h-[inherit] overflow-y-auto border border-ink bg-sheet py-1 text-small text-ink focus:outline-none"
        >
          <div
            v-for="(group, k) in groups.filter((g) => g.length)"
            :key="k"
            :class="k ? 'mt-1 border-t border-line pt-1' : ''"
          >
            <MenuItem v-for="act in group" :key="act.text" v-slot="{ active }" :disabled="act.disabled">
              <button
                class="flex w-full items-baseline gap-4 px-3 py-0.5 text-left whitespace-nowrap disabled:opacity-50"
                :class="active ? 'bg-water' : ''"
                :title="act.tip"
                @click="act.run()"
              >
                <span class="flex-1" :class="act.on ? 'font-semibold' : ''"
                  ><template v-if="act.on"
                    ><span aria-hidden="true">✓ </span><span class="sr-only">on: </span></template
                  >{{ act.text }}</span
                >
                <span v-if="act.keys" class="text-tiny text-second" aria-hidden="true">{{ act.keys }}</span>
              </button>
            </MenuItem>
          </div>
        </MenuItems>
      </div>
    </Teleport>
  </Menu>
</template>
