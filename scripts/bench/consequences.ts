import { budgetOf, foresightOf, lastOf, type Estate } from '@salt-trail/core'
import { random } from '../../core/test/random/random'
import { CHANGES } from './changes'

/** Changes that need more are told as not complete, so that the bench ends. */
const MOST_PAIRS = 20_000

const median = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0

/**
 * What a change brings about, after the base is known: what is known at once in a draft, and all of
 * it with the packets that differ (design part 9.6). Each change is made alone, in the base.
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
      // In a draft the state before is the draft without the change, so the bench goes back first.
      foresight.foreseeInTurns(estate)
      const start = performance.now()
      const { packets: turns } = foresight.foreseeInTurns(next, budgetOf(MOST_PAIRS))
      const atOnce = performance.now() - start
      const packets = lastOf(turns)
      return { time: performance.now() - start, atOnce, packets }
    })
    const rows = runs.map(({ packets: { counts } }) =>
      Object.values(counts).reduce((sum, count) => sum + count, 0),
    )
    const left = runs.filter(({ packets }) => packets.leftOut.length > 0).length
    row(
      `${name}: all consequences of one changed ${what}`,
      `${median(runs.map((one) => one.atOnce)).toFixed(0)} ms median until findings and ways are known, ${median(runs.map((one) => one.time)).toFixed(0)} ms with packets, up to ${Math.max(...rows)} rows${left > 0 ? `, ${left} of ${each} not complete` : ''}`,
    )
  }
}
