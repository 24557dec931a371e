/**
 * Something that is folded away until it is wanted. The package handles keyboard and ARIA roles; the
 * component that uses it sets the style.
 */
export { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
