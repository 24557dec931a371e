import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Job } from 'kubernetes-models/batch/v1'
import { expect, it } from 'vitest'
import { parse } from 'yaml'

const text = /```yaml\n([\s\S]*?)```/.exec(
  readFileSync(join(import.meta.dirname, '../../docs/scale.md'), 'utf8'),
)?.[1]

it('the manifest for Kubernetes holds against the schema of its API, as many parts as completions', () => {
  const manifest = parse(text ?? '') as ConstructorParameters<typeof Job>[0] & object
  expect(() => {
    new Job(manifest).validate()
  }).not.toThrow()
  const { completions, template } = manifest.spec!
  const env = template.spec!.containers[0]!.env!
  expect(env.find((e) => e.name === 'OLEAJE_SHARDS')?.value).toBe(String(completions))
  // the check does see what is wrong
  const wrong = { ...manifest, spec: { ...manifest.spec!, completions: 'eight' as unknown as number } }
  expect(() => {
    new Job(wrong).validate()
  }).toThrow(/completions/)
})
