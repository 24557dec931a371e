import { useSession } from '../composables/useSession'

/** What tests and benchmarks, and anyone with the console open, can ask of the running app. Nothing in the app uses it. */
export default defineNuxtPlugin(() => {
  const live = (): Record<string, number> => {
    const t = useSession().host.telemetry
    return { load: t.fixed('load'), worst: t.fixed('worst'), missed: t.fixed('missed'), beat: t.fixed('beat'), blocks: t.fixed('blocks') }
  }
  Object.assign(globalThis, {
    oleaje: {
      live,
      measure: () => useSession().host.measure(),
      project: () => useSession().doc.project,
      dropouts: () => useSession().host.dropouts,
      value: (key: string) => useSession().host.telemetry.get(key, NaN),
      capture: async (beat: number, frames: number) => {
        const { host, doc } = useSession()
        if (!doc.project) throw new Error('There is no project open.')
        const { left, right, latency } = await host.capture(doc.project, beat, frames)
        return { left: [...left], right: [...right], latency }
      },
    },
  })
})
