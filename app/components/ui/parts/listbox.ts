/** A value chosen from a list that opens: keys and roles by the package, looks by whoever uses it. */
export { Listbox, ListboxButton, ListboxLabel, ListboxOption, ListboxOptions } from '@headlessui/vue'
