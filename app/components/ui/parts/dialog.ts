/**
 * A panel over the page. The package handles keyboard and ARIA roles; the component that uses it sets the
 * style.
 */
export { Dialog, DialogPanel, DialogTitle } from '@headlessui/vue'
