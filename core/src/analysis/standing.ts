import { exitsOf, type ExitRow } from '../exits/exits'
import type { ExpectationResult } from '../expectations/expectations'
import type { Finding } from '../findings/finding'
import { findIn, searchOf, type Findings } from '../findings/findings'
import { presentOf } from '../findings/survey'
import type { Estate } from '../format/estate'
import { hopMemo } from '../hops/hops'
import { following, kept } from '../kept'
import { compile } from '../model/compile'
import { watch } from '../model/watched'

/** Everything that is computed of an estate as a whole. */
export interface Standing extends Findings {
  /** The ways out of every subnet, in the order of the estate. */
  readonly exits: readonly ExitRow[]
}

/** What a change of the estate brought about. */
export interface Consequences {
  /** The rows of the subnets whose ways out differ; of those that are no more, only the id. */
  readonly exits: readonly ExitRow[]
  readonly exitsGone: readonly string[]
  readonly findingsCome: readonly Finding[]
  readonly findingsGone: readonly Finding[]
  /** Those that stay, and say another thing than before. */
  readonly findingsOther: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
}

/** An estate that can be changed, with what follows from it at hand. */
export interface StandingAnalysis {
  readonly standing: () => Standing
  /**
   * Takes another state of the estate. What the change cannot have touched is not computed again:
   * the new state should share with the old one every object that it leaves alone.
   */
  readonly change: (estate: Estate) => Consequences
}

/**
 * Analyses an estate, and keeps what it found so that a change costs what it touches: every piece
 * knows what it read of the estate and of other pieces (`kept.ts`). Equal to a full analysis of the
 * changed estate, which a property test holds it to. Throws as `analyse` does.
 */
export function analyseStanding(estate: Estate): StandingAnalysis {
  let compiled = compile(estate)
  const { model, change } = watch(compiled)
  const memo = hopMemo()
  const search = searchOf(model, memo)
  const rows = new Map<number, ExitRow>()
  const collect = (): Standing =>
    following(() => ({
      exits: presentOf(model, 'subnets').map((index) => kept(rows, index, () => exitsOf(model, model.subnets[index]!, memo))),
      ...findIn(search)!,
    }))
  let standing = collect()
  return {
    standing: () => standing,
    change: (next) => {
      compiled = compile(next, compiled)
      change(compiled)
      const before = standing
      standing = collect()
      return consequences(before, standing)
    },
  }
}

function consequences(before: Standing, now: Standing): Consequences {
  const had = new Map(before.findings.map((one) => [one.fingerprint, one]))
  const has = new Map(now.findings.map((one) => [one.fingerprint, one]))
  const rows = new Map(before.exits.map((row) => [row.subnet, row]))
  const subnets = new Set(now.exits.map((row) => row.subnet))
  const results = new Map(before.expectations.map((one) => [one.id, one]))
  return {
    exits: now.exits.filter((row) => !isAlike(rows.get(row.subnet), row)),
    exitsGone: before.exits.flatMap((row) => (subnets.has(row.subnet) ? [] : [row.subnet])),
    findingsCome: now.findings.filter((one) => !had.has(one.fingerprint)),
    findingsGone: before.findings.filter((one) => !has.has(one.fingerprint)),
    findingsOther: now.findings.filter((one) => had.has(one.fingerprint) && !isAlike(had.get(one.fingerprint), one)),
    expectations: now.expectations.filter((one) => !isAlike(results.get(one.id), one)),
  }
}

/** Whether two pieces say the same; most are the very same object. */
const isAlike = (a: unknown, b: unknown): boolean => a === b || (a !== undefined && JSON.stringify(a) === JSON.stringify(b))
