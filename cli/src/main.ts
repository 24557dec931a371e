import { defineCommand, runMain } from 'citty'
import { renderCommand } from './render'

void runMain(
  defineCommand({
    meta: { name: 'oleaje', description: 'Oleaje on the command line' },
    subCommands: { render: renderCommand },
  }),
)
