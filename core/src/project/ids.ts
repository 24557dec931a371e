import { nanoid } from 'nanoid'

export const newId = (): string => nanoid(10)
