/**
 * A panel that opens beside its button. The package handles keyboard and ARIA roles; the component that uses
 * it sets the style.
 */
export { Popover, PopoverButton, PopoverPanel } from '@headlessui/vue'
