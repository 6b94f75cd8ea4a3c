import {
  budgetOf,
  candidatesOf,
  compile,
  foresightOf,
  hopMemo,
  packetsAmong,
  type Estate,
} from '@salt-trail/core'
import { random } from '../../core/test/random/random'
import { CHANGES } from './changes'

/** Changes that need more are told as not complete, so that the bench ends. */
const MOST_PAIRS = 20_000

const median = (values: number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0

/**
 * What a change brings about, after the base is known: packets opened and cut, and all of it as the
 * browser foresees it (design part 9.6). Each change is made alone, against the same base.
 */
export function benchConsequences(
  name: string,
  estate: Estate,
  each: number,
  row: (what: string, value: string) => void,
): void {
  const before = compile(estate)
  const known = hopMemo()
  // The base is known before the first change is timed.
  candidatesOf(
    { before, after: compile({ ...estate }, before) },
    { before: known, after: hopMemo() },
  )
  const foresight = estate.subnets.size <= 2_000 ? foresightOf(estate) : null
  for (const [what, make] of CHANGES) {
    const r = random(45)
    const runs = Array.from({ length: each }, () => {
      const next = make(estate, r)
      const start = performance.now()
      const pair = { before, after: compile(next, before) }
      const memo = { before: known, after: hopMemo() }
      const candidates = candidatesOf(pair, memo)
      const budget = budgetOf(MOST_PAIRS)
      const { rows, leftOut } = packetsAmong(pair, candidates, budget)
      const packets = performance.now() - start
      const begun = performance.now()
      foresight?.foresee(next)
      return { packets, all: performance.now() - begun, rows: rows.length, left: leftOut.length }
    })
    const most = Math.max(...runs.map((one) => one.rows))
    const left = runs.filter((one) => one.left > 0).length
    row(
      `${name}: packets opened and cut by one changed ${what}`,
      `${median(runs.map((one) => one.packets)).toFixed(0)} ms median, up to ${most} rows${left > 0 ? `, ${left} of ${each} not complete` : ''}`,
    )
    if (foresight)
      row(
        `${name}: all consequences of one changed ${what}`,
        `${median(runs.map((one) => one.all)).toFixed(0)} ms median`,
      )
  }
}
