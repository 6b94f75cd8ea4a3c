import { exitsOf, type ExitRow } from '../exits/exits'
import type { ExpectationResult } from '../expectations/expectations'
import { byGravity, type Finding } from '../findings/finding'
import { CHECKS } from '../findings/records'
import {
  expectationsOf,
  findingsOf,
  findingCache,
  withUnlike,
  type Findings,
} from '../findings/findings'
import { presentOf } from '../model/present'
import type { Estate } from '../format/estate'
import { hopMemo } from '../hops/hops'
import { routingCache, routingOf, type Routing } from '../hops/routing'
import { track, cached, lazy } from '../incremental/cells'
import { trackedModel } from '../incremental/tracked-model'
import { compile } from '../model/compile'
import { MODEL_SHAPE, type Model } from '../model/model'

/** Everything that is computed of an estate as a whole. */
export interface Standing extends Findings {
  /** The ways out of every subnet, in the order of the estate. */
  readonly exits: readonly ExitRow[]
}

/**
 * The ways out of a subnet before a change and after it; null where it was not there, or is no
 * more.
 */
export interface ChangedRow {
  readonly subnet: string
  readonly before: ExitRow | null
  readonly now: ExitRow | null
}

/**
 * What a change of the estate brought about. What becomes unlike its likes (`odd-unlike`) is left
 * out: that is looked for in the estate as a whole, and found in the state that is standing.
 */
export interface Consequences {
  readonly exits: readonly ChangedRow[]
  readonly findingsCome: readonly Finding[]
  readonly findingsGone: readonly Finding[]
  /** Findings with the same fingerprint whose content differs. */
  readonly findingsOther: readonly Finding[]
  readonly expectations: readonly ExpectationResult[]
}

/** An estate under analysis that can be changed: each change gives what follows from it. */
export interface StandingAnalysis {
  readonly standing: () => Standing
  /**
   * What decides the ways of every subnet in this state, where it is wanted. It stays as it is
   * while the analysis goes on to another state, which shares with it what is the same there.
   */
  readonly routing: () => Routing
  /**
   * Takes another state of the estate. What the change cannot have touched is not computed again:
   * the new state should share with the old one every object that it leaves alone.
   */
  readonly change: (estate: Estate) => Consequences
  /** The same without telling what follows from it. */
  readonly take: (estate: Estate) => void
  /** What all changes so far come to: this state against the one that was analysed first. */
  readonly sinceFirst: () => Consequences
}

/**
 * Analyses an estate, and keeps what it found so that a change costs what it touches: every piece
 * knows what it read of the estate and of other pieces (`incremental/cells.ts`). Equal to a full
 * analysis of the changed estate, which a property test holds it to. Throws as `analyse` does.
 */
export function analyseStanding(
  estate: Estate,
  { wantsRouting = false }: { readonly wantsRouting?: boolean } = {},
): StandingAnalysis {
  let compiled = compile(estate)
  const { model, change } = trackedModel(compiled, MODEL_SHAPE)
  const memo = hopMemo('fine')
  const search = findingCache(model, memo)
  const rows = new Map<number, ExitRow>()
  const parts = new Map<string, readonly ExitRow[]>()
  const routing = routingCache()
  /**
   * Rows are cached in blocks of this many subnets: a block in which nothing changed is taken over
   * as a whole.
   */
  const rowsFrom = (present: readonly number[], at: number): readonly ExitRow[] =>
    cached(parts, `${at} of ${present.length}`, () =>
      presentOf(model, 'subnets')
        .slice(at, at + ROWS_AT_ONCE)
        .map((index) => cached(rows, index, () => exitsOf(model, model.subnets[index]!, memo))),
    )
  const collect = (): Pieces =>
    track(() => {
      const present = presentOf(model, 'subnets')
      return {
        exits: Array.from({ length: Math.ceil(present.length / ROWS_AT_ONCE) }, (_, part) =>
          rowsFrom(present, part * ROWS_AT_ONCE),
        ),
        findings: CHECKS.map(([about, checks]) => findingsOf(search, about, checks)),
        expectations: expectationsOf(search),
        routing: wantsRouting ? routingOf(model, memo, routing) : null,
      }
    })
  const first = collect()
  let pieces = first
  const standingOf = (state: Model, kept: Pieces): (() => Standing) =>
    lazy(() => together(state, kept))
  let standing = standingOf(compiled, pieces)
  const take = (next: Estate): void => {
    compiled = compile(next, compiled)
    change(compiled)
    pieces = collect()
    standing = standingOf(compiled, pieces)
  }
  return {
    standing: () => standing(),
    routing: () => {
      if (pieces.routing === null) throw new Error('the routing of this analysis is not wanted')
      return pieces.routing
    },
    change: (next) => {
      const before = pieces
      take(next)
      return consequences(before, pieces)
    },
    take,
    sinceFirst: () => consequences(first, pieces),
  }
}

const ROWS_AT_ONCE = 100

/** The results, in lists that stay the same objects while their content does. */
interface Pieces {
  readonly exits: readonly (readonly ExitRow[])[]
  readonly findings: readonly (readonly Finding[])[]
  readonly expectations: readonly ExpectationResult[]
  readonly routing: Routing | null
}

const together = (model: Model, { exits, findings, expectations }: Pieces): Standing => ({
  exits: exits.flat(),
  findings: withUnlike(model, findings.flat()).sort(byGravity),
  expectations,
})

function consequences(before: Pieces, now: Pieces): Consequences {
  const exits = differing(before.exits, now.exits, ({ subnet }) => subnet)
  const findings = differing(before.findings, now.findings, ({ fingerprint }) => fingerprint)
  const expectations = differing([before.expectations], [now.expectations], ({ id }) => id)
  return {
    exits: [
      ...exits.other.map(([before, row]) => ({ subnet: row.subnet, before, now: row })),
      ...exits.come.map((row) => ({ subnet: row.subnet, before: null, now: row })),
      ...exits.gone.map((row) => ({ subnet: row.subnet, before: row, now: null })),
    ],
    findingsCome: findings.come.sort(byGravity),
    findingsGone: findings.gone.sort(byGravity),
    findingsOther: findings.other.map(([, one]) => one).sort(byGravity),
    expectations: [...expectations.come, ...expectations.other.map(([, one]) => one)],
  }
}

/** Findings that came, went and changed; lists that are the same object are skipped. */
function differing<T>(
  before: readonly (readonly T[])[],
  now: readonly (readonly T[])[],
  key: (one: T) => string,
): { come: T[]; gone: T[]; other: [T, T][] } {
  const moved = before.length !== now.length
  const lists = moved
    ? [[before.flat(), now.flat()] as const]
    : now.map((list, at) => [before[at]!, list] as const)
  const parts = lists.flatMap(([then, list]) =>
    then === list ? [] : [withoutSameEnds(then, list)],
  )
  const left = new Map(parts.flatMap(([then]) => then.map((one) => [key(one), one] as const)))
  const come: T[] = []
  const other: [T, T][] = []
  for (const one of parts.flatMap(([, list]) => list)) {
    const known = left.get(key(one))
    left.delete(key(one))
    if (known === undefined) come.push(one)
    else if (!isAlike(known, one)) other.push([known, one])
  }
  return { come, gone: [...left.values()], other }
}

/**
 * Two lists without their common beginning and end, compared by identity: what is left is nearly
 * always short.
 */
function withoutSameEnds<T>(
  a: readonly T[],
  b: readonly T[],
): readonly [readonly T[], readonly T[]] {
  let from = 0
  while (from < a.length && from < b.length && a[from] === b[from]) from++
  let end = 0
  while (
    end < a.length - from &&
    end < b.length - from &&
    a[a.length - 1 - end] === b[b.length - 1 - end]
  )
    end++
  return [a.slice(from, a.length - end), b.slice(from, b.length - end)]
}

/** Whether two values are equal; most are the same object. */
const isAlike = (a: unknown, b: unknown): boolean =>
  a === b || JSON.stringify(a) === JSON.stringify(b)
