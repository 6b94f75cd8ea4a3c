import { comparePrefixes, formatPrefix, prefixesOverlap, type Prefix } from '../../address/prefix'

import { validPrefixes } from './addressing'
import type { Checking } from './checking'

interface Owned {
  readonly owner: string
  readonly prefix: Prefix
}

/**
 * Connected networks that claim the same addresses, and planned ranges that something has taken
 * already.
 */
export function checkOverlaps(checking: Checking): void {
  const { estate, warning } = checking
  const ranges = new Map(
    [...estate.networks].map(([id, network]) => [id, validPrefixes(network.ranges)]),
  )
  const warned = new Set<string>()

  const compare = (
    networks: readonly string[],
    through: string,
    section: 'peerings' | 'transits' | 'sites',
    id: string,
  ): void => {
    const owned = networks.flatMap((owner) =>
      (ranges.get(owner) ?? []).map((prefix) => ({ owner, prefix })),
    )
    for (const { one, other, more } of overlapping(owned)) {
      const key = [one.owner, other.owner].sort().join(' ')
      if (warned.has(key)) continue
      warned.add(key)
      warning(
        { section, id },
        'networks-overlap',
        `it connects ${one.owner} (${formatPrefix(one.prefix)}) and ${other.owner} (${formatPrefix(other.prefix)})${andMore(more)}, whose ranges overlap; through ${through} only one of them can be reached there`,
      )
    }
  }

  for (const [id, peering] of estate.peerings)
    compare([peering.a.network, peering.b.network], 'the peering', 'peerings', id)
  for (const [id, transit] of estate.transits) {
    const attached = Object.values(transit.attachments ?? {}).flatMap(
      (attachment) => attachment.network ?? [],
    )
    compare([...new Set(attached)], 'the transit', 'transits', id)
  }
  for (const id of estate.sites.keys()) {
    const connected = [...estate.gateways.values()]
      .filter((gateway) => gateway.site === id)
      .flatMap((gateway) => gateway.network ?? [])
    compare([...new Set(connected)], 'the site', 'sites', id)
  }
  checkPlans(checking, ranges)
}

/** Planned ranges that collide with those of networks, sites or other plans. */
function checkPlans(
  { estate, warning }: Checking,
  ranges: ReadonlyMap<string, readonly Prefix[]>,
): void {
  const taken: Owned[] = [
    ...[...ranges].flatMap(([id, list]) =>
      list.map((prefix) => ({ owner: `networks/${id}`, prefix })),
    ),
    ...[...estate.sites].flatMap(([id, site]) =>
      validPrefixes(site.ranges).map((prefix) => ({ owner: `sites/${id}`, prefix })),
    ),
  ]
  const planned = [...estate.plannedRanges].flatMap(([id, plan]) =>
    validPrefixes(plan.ranges).map((prefix) => ({ owner: `plannedRanges/${id}`, prefix })),
  )
  const isPlan = (one: Owned): boolean => one.owner.startsWith('plannedRanges/')
  for (const { one, other, more } of overlapping([...taken, ...planned])) {
    if (!isPlan(one) && !isPlan(other)) continue
    const [plan, collides] = isPlan(one) ? [one, other] : [other, one]
    const further = plan === one ? andMore(more) : more > 0 ? `, as ${more} more do` : ''
    warning(
      { section: 'plannedRanges', id: plan.owner.slice('plannedRanges/'.length) },
      'planned-range-collision',
      `the planned range ${formatPrefix(plan.prefix)} collides with ${formatPrefix(collides.prefix)} of ${collides.owner}${further}`,
    )
  }
}

/** A prefix, and another owner's around it or the same. */
interface Overlap {
  readonly one: Owned
  readonly other: Owned
  /** How many further prefixes are around the one and told with it. */
  readonly more: number
}

/** Of one prefix, overlaps with so many others are told one by one. */
const MOST_OTHERS = 10

const andMore = (more: number): string => (more > 0 ? ` and ${more} more` : '')

/**
 * Pairs of different owners whose prefixes overlap, by one sweep over the sorted prefixes: those
 * around a prefix are on a stack when it is met. Costs sorting, and what is told.
 */
function* overlapping(owned: readonly Owned[]): Generator<Overlap> {
  const sorted = [...owned].sort((a, b) => comparePrefixes(a.prefix, b.prefix))
  const open: Owned[] = []
  for (const one of sorted) {
    while (open.length > 0 && !prefixesOverlap(open.at(-1)!.prefix, one.prefix)) open.pop()
    const told: Owned[] = []
    let at = open.length - 1
    for (; at >= 0 && told.length < MOST_OTHERS; at--)
      if (open[at]!.owner !== one.owner) told.push(open[at]!)
    for (const [index, other] of told.reverse().entries())
      yield { one, other, more: index === told.length - 1 ? at + 1 : 0 }
    open.push(one)
  }
}
