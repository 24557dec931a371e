/** A value found by typing: keys and roles by the package, looks by whoever uses it. */
export { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
