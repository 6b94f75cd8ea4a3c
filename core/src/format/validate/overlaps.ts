import { compareAddresses } from '../../address/address'
import {
  comparePrefixes,
  formatPrefix,
  lastAddress,
  prefixesOverlap,
  type Prefix,
} from '../../address/prefix'

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
    for (const [one, other] of overlapping(owned)) {
      const key = [one.owner, other.owner].sort().join(' ')
      if (warned.has(key)) continue
      warned.add(key)
      warning(
        { section, id },
        'networks-overlap',
        `it connects ${one.owner} (${formatPrefix(one.prefix)}) and ${other.owner} (${formatPrefix(other.prefix)}), whose ranges overlap; through ${through} only one of them can be reached there`,
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
  for (const [one, other] of overlapping([...taken, ...planned])) {
    if (!isPlan(one) && !isPlan(other)) continue
    const [plan, collides] = isPlan(one) ? [one, other] : [other, one]
    warning(
      { section: 'plannedRanges', id: plan.owner.slice('plannedRanges/'.length) },
      'planned-range-collision',
      `the planned range ${formatPrefix(plan.prefix)} collides with ${formatPrefix(collides.prefix)} of ${collides.owner}`,
    )
  }
}

/** Pairs of different owners whose prefixes overlap, by one sweep over the sorted prefixes. */
function overlapping(owned: readonly Owned[]): [Owned, Owned][] {
  const sorted = [...owned].sort((a, b) => comparePrefixes(a.prefix, b.prefix))
  const pairs: [Owned, Owned][] = []
  let open: Owned[] = []
  for (const one of sorted) {
    open = open.filter(
      (o) =>
        typeof o.prefix.address === typeof one.prefix.address &&
        compareAddresses(lastAddress(o.prefix), one.prefix.address) >= 0,
    )
    for (const other of open)
      if (other.owner !== one.owner && prefixesOverlap(other.prefix, one.prefix))
        pairs.push([other, one])
    open.push(one)
  }
  return pairs
}
