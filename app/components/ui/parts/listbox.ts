/**
 * A value chosen from a list that opens. The package handles keyboard and ARIA roles; the component that uses
 * it sets the style.
 */
export { Listbox, ListboxButton, ListboxLabel, ListboxOption, ListboxOptions } from '@headlessui/vue'
