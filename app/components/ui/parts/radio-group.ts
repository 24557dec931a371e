/**
 * A value chosen from a row of buttons. The package handles keyboard and ARIA roles; the component that uses
 * it sets the style.
 */
export { RadioGroup, RadioGroupLabel, RadioGroupOption } from '@headlessui/vue'
