import { budgetOf, foresightOf, type Estate } from '@salt-trail/core'
import { random } from '../../core/test/random/random'
import { CHANGES } from './changes'

/** Changes that need more are told as not complete, so that the bench ends. */
const MOST_PAIRS = 20_000

const median = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0

/**
 * What a change brings about, after the base is known: all of it as it is foreseen in a draft, and
 * the share of it that compares packets (design part 9.6). Each change is made alone, against the
 * same base.
 */
export function benchConsequences(
  name: string,
  estate: Estate,
  each: number,
  row: (what: string, value: string) => void,
): void {
  const begun = performance.now()
  const foresight = foresightOf(estate)
  row(
    `${name}: making a base ready for drafts`,
    `${((performance.now() - begun) / 1000).toFixed(1)} s`,
  )
  for (const [what, make] of CHANGES) {
    const r = random(45)
    const runs = Array.from({ length: each }, () => {
      const next = make(estate, r)
      const timed = (pairs: number) => {
        const start = performance.now()
        const { packets } = foresight.foresee(next, budgetOf(pairs))
        return { time: performance.now() - start, packets }
      }
      const withoutPackets = timed(0).time
      const { time, packets } = timed(MOST_PAIRS)
      return { time, compared: time - withoutPackets, packets }
    })
    const rows = runs.map(({ packets: { counts } }) =>
      Object.values(counts).reduce((sum, count) => sum + count, 0),
    )
    const left = runs.filter(({ packets }) => packets.leftOut.length > 0).length
    row(
      `${name}: all consequences of one changed ${what}`,
      `${median(runs.map((one) => one.time)).toFixed(0)} ms median, ${median(runs.map((one) => one.compared)).toFixed(0)} ms of it for packets, up to ${Math.max(...rows)} rows${left > 0 ? `, ${left} of ${each} not complete` : ''}`,
    )
  }
}
