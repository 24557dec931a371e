import { defineSource } from '../contract/source'

/** The sound that a host hands over, as it is. Stands in place of a track’s source in an exported chain. */
export const feedSource = defineSource({
  id: 'feed',
  name: 'Feed',
  tip: 'Plays the sound that the host page gives',
  live: true,
  params: {},
  load: { kB: 1, ns: 5 },
  create: () => ({
    reset() {},
    process({ out, input }) {
      out.left.set(input.left)
      out.right.set(input.right)
    },
  }),
})
