/** Things to do, in a list that opens: keys and roles by the package, looks by whoever uses it. */
export { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/vue'
