/**
 * Commands in a list that opens. The package handles keyboard and ARIA roles; the component that uses it sets
 * the style.
 */
export { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
