import type { InjectionKey, Ref } from 'vue'

/** How much room a dock pane gives to the view inside it, and whether the view's settings are open. */
export interface PaneRoom {
  readonly isEnlarged: Readonly<Ref<boolean>>
  readonly showsSettings: Readonly<Ref<boolean>>
}
export const paneRoom: InjectionKey<PaneRoom> = Symbol('room of a dock pane')
