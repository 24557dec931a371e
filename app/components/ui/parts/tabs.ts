/**
 * Panels of which one is shown, chosen by tabs. The package handles keyboard and ARIA roles; the component
 * that uses it sets the style.
 */
export { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/vue'
