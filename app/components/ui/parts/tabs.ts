/** Panels of which one is shown, chosen by tabs: keys and roles by the package, looks by whoever uses it. */
export { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
