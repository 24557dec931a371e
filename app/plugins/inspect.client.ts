import type { Session } from '../services/session'

/**
 * What tests and benchmarks, and anyone with the console open, can ask of the running app. Nothing in the app
 * uses it.
 */
export default defineNuxtPlugin({
  name: 'inspect',
  dependsOn: ['session'],
  setup(nuxt) {
    const session = nuxt.$session as Session
    const live = (): Record<string, number> => {
      const t = session.host.telemetry
      return {
        load: t.fixed('load'),
        worst: t.fixed('worst'),
        missed: t.fixed('missed'),
        beat: t.fixed('beat'),
        blocks: t.fixed('blocks'),
      }
    }
    Object.assign(globalThis, {
      oleaje: {
        live,
        measure: () => session.host.measure(),
        project: () => session.doc.project,
        sound: (hash: string) => session.host.sound(hash),
        dropouts: () => session.host.dropouts,
        auditioned: () => session.audition.heard.value,
        places: () => session.host.telemetry.size,
        value: (key: string) => session.host.telemetry.get(key, NaN),
        capture: async (beat: number, frames: number) => {
          const { host, doc } = session
          if (!doc.project) throw new Error('There is no project open.')
          const { left, right, latency } = await host.capture(doc.project, beat, frames)
          return { left: [...left], right: [...right], latency }
        },
      },
    })
  },
})
