import { intersectRanges, rangeSetOf, type RangeSet } from '../address/ranges'
import { formatPrefix, prefixFamily, prefixOf } from '../address/prefix'
import type { Operation } from '../changes/index'
import type { Finding } from '../findings/finding'
import type { Route } from '../format/estate'
import { mend, type Mend } from '../mend/mend'
import type { Model, SubnetModel } from '../model/model'
import { approachesTo, subnetsOfWall, type Approach } from '../steering/approach'
import { listText } from '../findings/survey'
import { lead, noTables } from '../steering/tables'
import { acceptForwarded, routesOfWall } from '../steering/wall-routes'
import type { PurposeEnds } from './purpose'

/** Subnets on the far side of one change; more are no proposal that somebody would read. */
const MOST_FAR = 8
/** So many of them are tried alone. */
const MOST_ALONE = 2

/**
 * Ways of leading to a firewall what goes round it or meets it one way: the routes of both sides,
 * each to the other by the firewall, in tables that nobody else shares. First for all subnets that
 * the finding speaks of, then for some of them alone. None where one side has no next hop that
 * leads to the firewall. Costs a step for each subnet, peering and transit.
 */
export function* waysToInspect(
  model: Model,
  { anchor, objects }: Finding,
  { ranges }: PurposeEnds,
): Generator<Mend> {
  const firewall = objects.find((ref) => ref.startsWith('firewalls/'))?.slice('firewalls/'.length)
  const near = subnetAt(model, anchor)
  const source = model.estate.firewalls.get(firewall ?? '')
  if (firewall === undefined || !near || !source) return
  const approaches = approachesTo(model, firewall)
  const wall = new Set(subnetsOfWall(model, source))
  const named = new Set(objects.filter((ref) => ref !== anchor))
  const far = model.subnets.filter(
    (one) =>
      one !== near &&
      one.up &&
      !wall.has(one.id) &&
      approaches.has(networkOf(model, one)) &&
      (named.has(one.ref) || partOf(one, ranges).length > 0),
  )
  if (!approaches.has(networkOf(model, near)) || wall.has(near.id)) return
  const groups = [far.slice(0, MOST_FAR), ...far.slice(0, MOST_ALONE).map((one) => [one])]
  for (const group of groups)
    if (group.length > 0) yield* led(model, { firewall, approaches, near, far: group })
}

interface Steered {
  readonly firewall: string
  readonly approaches: ReadonlyMap<string, Approach>
  readonly near: SubnetModel
  readonly far: readonly SubnetModel[]
}

function led(model: Model, { firewall, approaches, near, far }: Steered): Mend[] {
  const under = noTables()
  const way = (from: SubnetModel, to: readonly SubnetModel[]): boolean => {
    const routes = routesBy(approaches.get(networkOf(model, from))!, from, to)
    if (routes.length > 0)
      lead(model, under, { subnets: [from.id], routes, name: `${from.id}-by-${firewall}` })
    return routes.length > 0
  }
  if (!way(near, far) || !far.every((one) => way(one, [near]))) return []
  const networks = new Set([near, ...far].map((one) => networkOf(model, one)))
  const beside: Operation[] = [...networks].flatMap((network) => {
    const { isOwn, peering } = approaches.get(network)!
    const own = [near, ...far].filter((one) => networkOf(model, one) === network)
    const source = model.estate.firewalls.get(firewall)!
    return [
      ...(isOwn ? [] : routesOfWall(model, firewall, source, own.flatMap(textsOf))),
      ...acceptForwarded(model, network, peering),
    ]
  })
  const what = `lead what ${near.id} and ${listText(far.map(({ id }) => id))} send each other by ${firewall}`
  const made = mend(what, [...under.operations, ...beside])
  return made ? [made] : []
}

/** Routes of one subnet to others by the firewall, in the families that both have. */
function routesBy({ via }: Approach, from: SubnetModel, to: readonly SubnetModel[]): Route[] {
  const families = new Set(from.ranges.map(prefixFamily))
  return to.flatMap(textsOf).flatMap((text): Route[] => {
    const family = prefixFamily(prefixOf(text))
    const next = families.has(family) ? via(family, from.zone) : null
    return next === null ? [] : [{ to: text, via: next }]
  })
}

const textsOf = ({ ranges }: SubnetModel): string[] => ranges.map(formatPrefix)
const networkOf = ({ networks }: Model, { network }: SubnetModel): string => networks[network]!.id
const partOf = ({ allRanges }: SubnetModel, ranges: RangeSet): RangeSet =>
  intersectRanges(rangeSetOf(allRanges), ranges)

const subnetAt = ({ subnets, index }: Model, ref: string): SubnetModel | undefined =>
  ref.startsWith('subnets/')
    ? subnets[index.subnets.get(ref.slice('subnets/'.length)) ?? -1]
    : undefined
