import { defineEventHandler } from 'h3'
import { queue } from '../rendering/queue'

export default defineEventHandler(() => ({ status: 'ok', rendering: queue.running, waiting: queue.waiting }))
