/** A server that was started by a script of this project ends with it, however that is ended. */
export default defineNitroPlugin(() => {
  if (process.send) process.on('disconnect', () => process.exit(0))
})
