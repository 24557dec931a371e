/** Something that is folded away until it is wanted: keys and roles by the package, looks by whoever uses it. */
export { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/vue'
