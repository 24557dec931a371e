/** Something that is on or off: keys and roles by the package, looks by whoever uses it. */
export { Switch } from '@headlessui/vue'
