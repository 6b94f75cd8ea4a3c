import { readFileSync, writeFileSync } from 'node:fs'
import { DEFAULT_LIMITS, readEstate, readWritten } from '@salt-trail/core'
import { generateEstate } from '../generator/estate'
import { SIZES } from '../generator/plan'

// `make FILE` writes an estate just as large as may be brought in; `read FILE` reads it, in a
// process in which nothing else was done.
const [what, file] = process.argv.slice(2) as ['make' | 'read', string]
const MOST = DEFAULT_LIMITS.bytes / 2 ** 20
const textOf = (networks: number): string =>
  JSON.stringify(generateEstate({ ...SIZES.L, networks }, 1).estate)

if (what === 'make') {
  // What a network takes is nearly the same for all.
  const each = Buffer.byteLength(textOf(SIZES.L.networks)) / SIZES.L.networks
  writeFileSync(file, textOf(Math.floor((DEFAULT_LIMITS.bytes / each) * 0.99)))
} else {
  const text = readFileSync(file, 'utf8')
  const megabytes = (text.length / 2 ** 20).toFixed(1)
  const seconds = (work: () => unknown): string => {
    const start = performance.now()
    if (!work()) throw new Error('it could not be read')
    return ((performance.now() - start) / 1000).toFixed(1)
  }
  const read = seconds(() => readEstate([{ name: 'largest.json', text }]).estate)
  const peak = process.resourceUsage().maxRSS / 2 ** 20
  console.log(
    `| the largest file of strict JSON that may be brought in (${MOST} MiB), ${megabytes} MiB: reading and checking | ${read} s, ${peak.toFixed(2)} GiB at most |`,
  )
  console.log(
    `| the same, once it is saved: reading without checking again | ${seconds(() => readWritten(text))} s |`,
  )
}
