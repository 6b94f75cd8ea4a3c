import { compile, exitsOf, hopMemo, readEstate, type Estate, type Model } from '@salt-trail/core'
import { generateEstate } from '../generator/estate'
import { SIZES } from '../generator/plan'

/** The product's own limits are for what people bring in; here the question is how far it goes. */
const WITHOUT_LIMITS = { bytes: 2 ** 31, subnets: 10 ** 7, routes: 10 ** 8, rules: 10 ** 8, aliases: 0, depth: 64 }
/** The matrix is made for so long; in seconds. */
const SECONDS = 300

const gibibytes = (): string => `${(process.memoryUsage().rss / 2 ** 30).toFixed(1)} GiB resident`

/** XL as far as it goes on this machine, in one process and on one core. */
export function benchLargest(row: (what: string, value: string) => void): void {
  const timed = <T>(work: () => T): [T, number] => {
    const start = performance.now()
    return [work(), (performance.now() - start) / 1000]
  }
  const text = JSON.stringify(generateEstate(SIZES.XL, 1).estate)
  const [read, reading] = timed(() => readEstate([{ name: 'XL.json', text }], WITHOUT_LIMITS))
  row(`XL: reading and checking ${(text.length / 2 ** 20).toFixed(0)} MiB of strict JSON`, `${reading.toFixed(0)} s and ${gibibytes()}`)
  const [model, compiling] = timed((): Model => compile(read.estate as Estate))
  row('XL: compiling', `${compiling.toFixed(0)} s and ${gibibytes()}`)
  const memo = hopMemo()
  const subnets = [...model.index.subnets.values()]
  let done = 0
  const [, making] = timed(() => {
    const end = performance.now() + SECONDS * 1000
    for (const index of subnets) {
      if (performance.now() > end) return
      exitsOf(model, model.subnets[index]!, memo)
      done++
    }
  })
  row(
    'XL: the Exits matrix, five columns',
    `${done.toLocaleString('en-GB')} of ${subnets.length.toLocaleString('en-GB')} rows in ${making.toFixed(0)} s and ${gibibytes()}`,
  )
}
