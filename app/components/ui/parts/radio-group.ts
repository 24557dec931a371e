/** A value chosen from a row of buttons: keys and roles by the package, looks by whoever uses it. */
export { RadioGroup, RadioGroupLabel, RadioGroupOption } from '@headlessui/vue'
