/**
 * A setting that is on or off. The package handles keyboard and ARIA roles; the component that uses it sets
 * the style.
 */
export { Switch } from '@headlessui/vue'
