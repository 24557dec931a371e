/** A panel over the page: keys and roles by the package, looks by whoever uses it. */
export { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
