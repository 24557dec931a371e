/**
 * A value found by typing. The package handles keyboard and ARIA roles; the component that uses it sets the
 * style.
 */
export { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/vue'
