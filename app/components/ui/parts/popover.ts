/** A panel that opens beside its button: keys and roles by the package, looks by whoever uses it. */
export { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
