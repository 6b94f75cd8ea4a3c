import { familyOf, nextAddress, previousAddress } from '../address/address'
import { rangeOf, rangeSet, type Range } from '../address/ranges'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { routesLimitedTo } from '../routes/own-routes'
import type { Family } from '../address/address'
import type { HostKind } from './kinds'
import type { HopRange, Sweep } from './sweep'

/**
 * More routes than these are not laid over what holds without them; all destinations are then
 * looked up.
 */
const MOST_LAID_OVER = 16

/**
 * The routes that a kind of host has by its tags, where they may be laid over the ways of hosts
 * without tags; none where it has none, or too many.
 */
export function routesByTags(
  model: Model,
  subnet: SubnetModel,
  { tags }: HostKind,
  family: Family,
): readonly RouteModel[] {
  if (tags.length === 0 || subnet.table < 0) return NONE
  const limited = routesLimitedTo(model.tables[subnet.table]!.routes, tags).filter(
    ({ prefix }) => familyOf(prefix.address) === family,
  )
  return limited.length <= MOST_LAID_OVER ? limited : NONE
}

const NONE: readonly RouteModel[] = []

/**
 * The ways of hosts that have some routes by their tags, in a priority-routed network: as of hosts
 * without tags wherever a longer route wins, or a built-in one stands, and looked up anew in the
 * rest. A network may have a range for each subnet and routes for each tag: so each kind of host
 * costs what its tags change, and a copy of references. `again` looks destinations up.
 */
export function laidOver(
  base: Sweep,
  routes: readonly RouteModel[],
  again: (spans: readonly Range[]) => Sweep,
): Sweep {
  const spans = routes.map(({ prefix }) => ({ ...rangeOf(prefix), length: prefix.length }))
  const kept: HopRange[] = []
  const open: Range[] = []
  const longest = Math.max(...routes.map(({ prefix }) => prefix.length))
  for (const range of base.ranges) {
    if (!mayWin(range, longest)) {
      kept.push(range)
      continue
    }
    const over = spans.filter(
      ({ from, to, length }) => from <= range.to && range.from <= to && mayWin(range, length),
    )
    if (over.length === 0) kept.push(range)
    else cutOut(range, rangeSet(over), kept, open)
  }
  const { ranges, sources, individual } = again(rangeSet(open))
  return {
    ranges: inOrder(kept, ranges),
    sources: {
      from: sources.from > base.sources.from ? sources.from : base.sources.from,
      to: sources.to < base.sources.to ? sources.to : base.sources.to,
    },
    individual,
  }
}

/** Whether a route of some length may win where others do without it. */
function mayWin({ hop: { winners } }: HopRange, length: number): boolean {
  const [winner] = winners
  if (winner === undefined || winner.target.kind === 'service-switch') return true
  if (winner.origin === 'built-in' && STANDING.has(winner.target.kind)) return false
  return length >= winner.prefix.length
}

/** What tables of a priority-routed network do not override. */
const STANDING: ReadonlySet<string> = new Set(['local', 'peering'])

/** Puts the parts of a range that some spans do not have to those that stay, the others aside. */
function cutOut(range: HopRange, spans: readonly Range[], kept: HopRange[], open: Range[]): void {
  let from = range.from
  for (const span of spans) {
    if (span.from > from) kept.push({ ...range, from, to: previousAddress(span.from)! })
    const to = span.to < range.to ? span.to : range.to
    open.push({ from: span.from > from ? span.from : from, to })
    const next = nextAddress(to)
    if (next === null || next > range.to) return
    from = next
  }
  kept.push({ ...range, from })
}

/** Two lists of ranges that lie apart, as one in ascending order; neighbours that agree are one. */
function inOrder(a: readonly HopRange[], b: readonly HopRange[]): HopRange[] {
  const out: HopRange[] = []
  let [i, j] = [0, 0]
  while (i < a.length || j < b.length) {
    const takesFirst = j >= b.length || (i < a.length && a[i]!.from < b[j]!.from)
    out.push(takesFirst ? a[i++]! : b[j++]!)
  }
  return out
}
