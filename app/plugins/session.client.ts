import { createSession } from '../services/session'

/** Makes the services of this tab and gives them to all components. */
export default defineNuxtPlugin({
  name: 'session',
  setup: () => ({ provide: { session: createSession(useRuntimeConfig().app.baseURL) } }),
})
