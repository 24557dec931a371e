import { ComboboxInput as PackageInput } from '@headlessui/vue'
import { type FunctionalComponent, h } from 'vue'
import { KeysInTurn } from './keys-in-turn'

/**
 * A value found by typing. The package handles keyboard and ARIA roles; the component that uses it sets the
 * style.
 */
export { Combobox, ComboboxOption, ComboboxOptions } from '@headlessui/vue'

const keys = new KeysInTurn()

/** The field, whose keys wait for each other: the package moves the highlight only with the next frame. */
export const ComboboxInput: FunctionalComponent = (_, { attrs, slots }) =>
  h(
    PackageInput,
    { ...attrs, onKeydownCapture: [keys.take, attrs.onKeydownCapture].flat().filter(Boolean) },
    slots,
  )
ComboboxInput.inheritAttrs = false
