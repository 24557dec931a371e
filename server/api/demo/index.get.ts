import { defineEventHandler, setHeader } from 'h3'
import { catalogue } from '../../demo'

export default defineEventHandler(async (event) => {
  setHeader(event, 'cache-control', 'no-cache')
  return catalogue()
})
