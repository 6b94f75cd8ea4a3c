import { formatAddress } from '../../address/address'
import { containsAddress, prefixOf } from '../../address/prefix'
import { pointer, type Operation } from '../../changes/index'
import type { Gateway, Route } from '../../format/estate'
import { viaText } from '../../model/targets'
import { mend, type Mend } from '../mend'
import { bringUp, freeId, host, isUp, networkWith, prefixFor, type Situation } from '../situation'
import { narrowPrefix } from './prefixes'
import { appendRoutes } from './routes'
import { waysTowards } from './ways'

/** A route in the transit's table of the sender's attachment, towards the destination's network. */
export function transitRoute(s: Situation): Mend | null {
  const transit = s.estate.transits.get(s.id)
  const target = networkWith(s.estate, s.dst)
  const attachments = Object.entries(transit?.attachments ?? {})
  const towards = attachments.find(
    ([, one]) => isUp(one) && one.network !== undefined && one.network === target,
  )?.[0]
  const table = attachments.find(([, one]) => one.network === s.network)?.[1].table
  if (towards === undefined || table === undefined) return null
  const routes = transit!.tables?.[table]?.routes
  const route = { to: prefixFor(s, s.dst), via: towards }
  const change: Operation = routes
    ? { op: 'add', path: pointer('transits', s.id, 'tables', table, 'routes', '-'), value: route }
    : { op: 'add', path: pointer('transits', s.id, 'tables', table, 'routes'), value: [route] }
  return mend(`route ${route.to} by ${towards} in ${s.id}`, [change])
}

/** A route of the firewall's own, to the first address of its outside or first subnet. */
export function firewallRoute(s: Situation): Mend | null {
  const firewall = s.estate.firewalls.get(s.id)
  if (firewall?.style !== 'routed') return null
  const side = firewall.interfaces?.outside ?? Object.values(firewall.interfaces ?? {})[0]
  const range = s.estate.subnets.get(s.estate.interfaces.get(side ?? '')?.subnet ?? '')?.ranges[0]
  const first = range === undefined ? null : prefixOf(range).address
  if (typeof first !== 'number') return null
  const route = { to: host(s.packet.dst), via: { address: formatAddress(first + 1) } }
  const path = pointer('firewalls', s.id, 'routes')
  return mend(`a route of ${s.id} to ${s.packet.dst}`, [
    firewall.routes
      ? { op: 'add', path: `${path}/-`, value: route }
      : { op: 'add', path, value: [route] },
  ])
}

/**
 * The route of a transit's table or of a firewall that drops the destination is taken out: the
 * longest that covers it.
 */
export function withoutOwnRoute(s: Situation, section: 'transits' | 'firewalls'): Mend | null {
  const firewall = section === 'firewalls' ? s.estate.firewalls.get(s.id) : undefined
  const tables =
    section === 'transits' ? Object.entries(s.estate.transits.get(s.id)?.tables ?? {}) : []
  const lists: [string, readonly { to: unknown; via: unknown }[]][] =
    section === 'transits'
      ? tables.map(([name, table]) => [
          pointer('transits', s.id, 'tables', name, 'routes'),
          table.routes ?? [],
        ])
      : [
          [
            pointer('firewalls', s.id, 'routes'),
            (firewall?.style === 'routed' && firewall.routes) || [],
          ],
        ]
  for (const [path, routes] of lists) {
    const at = routes.findIndex(
      (one) =>
        one.via === 'drop' &&
        typeof one.to === 'string' &&
        containsAddress(prefixOf(one.to), s.dst),
    )
    if (at >= 0)
      return mend(`take the route that drops it out of ${s.id}`, [
        { op: 'remove', path: `${path}/${at}` },
      ])
  }
  return null
}

/** The table of a gateway without its route that drops the destination. */
export function ingressWithoutDrop(s: Situation): Mend | null {
  const routes = s.estate.routeTables.get(s.id)?.routes ?? []
  const at = routes.findIndex(
    (one) =>
      one.via === 'drop' && typeof one.to === 'string' && containsAddress(prefixOf(one.to), s.dst),
  )
  return at < 0
    ? null
    : mend(`take the route that drops it out of ${s.id}`, [
        { op: 'remove', path: pointer('routeTables', s.id, 'routes', at) },
      ])
}

/** The largest free range, up to a /24 or /64, that holds the destination. */
export function roomFor({ dst, model }: Situation): string {
  const v4 = typeof dst === 'number'
  for (let length = v4 ? 24 : 64; length < (v4 ? 32 : 128); length++) {
    const prefix = v4
      ? { address: Math.floor(dst / 2 ** (32 - length)) * 2 ** (32 - length), length }
      : { address: (dst >> BigInt(128 - length)) << BigInt(128 - length), length }
    const taken = model.subnets.some((one) =>
      one.allRanges.some(
        (range) => containsAddress(range, prefix.address) || containsAddress(prefix, range.address),
      ),
    )
    if (!taken) return `${formatAddress(prefix.address)}/${length}`
  }
  return host(formatAddress(dst))
}

/** The private gateways that lead to the site packets come from, or its answers. */
function gatewaysOfSite({ estate, stations, section, id }: Situation) {
  const door = stations.find(({ kind }) => kind === 'gateway')?.at.slice('gateways/'.length)
  const site = section === 'sites' ? id : estate.gateways.get(door ?? '')?.site
  return [...estate.gateways].filter(
    ([, one]) => one.kind === 'private' && site !== undefined && one.site === site,
  )
}

/** A gateway is brought up, or announces a range to its site. */
function announceBy(s: Situation, id: string, gateway: Gateway, range: string): Mend | null {
  const up = bringUp(s.estate, 'gateways', id)
  if (up.length > 0) return mend(`bring ${id} up`, up)
  const path = pointer('gateways', id, 'announces')
  return mend(`announce ${range} by ${id}`, [
    gateway.announces
      ? { op: 'add', path: `${path}/-`, value: range }
      : { op: 'add', path, value: [range] },
  ])
}

/**
 * Each gateway of the site announces the range of the destination's subnet alone, or that of its
 * network; what comes in by one of another network may be led on from there.
 */
export const announceAlone = (s: Situation): (Mend | null)[] =>
  gatewaysOfSite(s).flatMap(([id, gateway]) =>
    [narrowPrefix(s), prefixFor(s, s.dst)]
      .filter((range) => !gateway.announces?.includes(range))
      .map((range) => announceBy(s, id, gateway, range)),
  )

/**
 * What came in by a private gateway for another network is led on by the gateway's own table, which
 * it gets where it has none.
 */
export function leadOnFromGateway(s: Situation): (Mend | null)[] {
  const id = [...s.stations]
    .reverse()
    .find(({ kind }) => kind === 'gateway')
    ?.at.slice('gateways/'.length)
  const gateway = s.estate.gateways.get(id ?? '')
  const network = gateway?.network
  if (gateway?.kind !== 'private' || network === undefined) return []
  if (networkWith(s.estate, s.dst) === network) return []
  const to = prefixFor(s, s.dst)
  return waysTowards({ ...s, network }).map((via) =>
    mend(
      `lead ${to} on by ${viaText(via)} from ${id}`,
      routeAtGateway(s.estate, id!, network, { to, via }),
    ),
  )
}

function routeAtGateway(
  estate: Situation['estate'],
  id: string,
  network: string,
  route: Route,
): Operation[] {
  const table = estate.gateways.get(id)?.routeTable
  if (table !== undefined && estate.routeTables.has(table))
    return appendRoutes(estate, table, [route])
  const made = freeId(estate.routeTables, `${id}-table`)
  return [
    { op: 'add', path: pointer('routeTables', made), value: { network, routes: [route] } },
    { op: 'add', path: pointer('gateways', id, 'routeTable'), value: made },
  ]
}

/** A private gateway of the site announces the range, or is brought up, or the peering lends it. */
export function announce(s: Situation): Mend | null {
  const target = networkWith(s.estate, s.dst)
  const own = gatewaysOfSite(s)
  const near = own.find(([, g]) => g.network === target)
  if (near) return announceBy(s, ...near, prefixFor(s, s.dst))
  for (const [id, { a, b }] of s.estate.peerings) {
    const lender = own.find(
      ([, g]) => g.network !== undefined && [a.network, b.network].includes(g.network),
    )?.[1].network
    if (lender === undefined || ![a.network, b.network].includes(target ?? '')) continue
    const [user, lending] = a.network === lender ? (['b', 'a'] as const) : (['a', 'b'] as const)
    return mend(`let ${target} use the gateways of ${lender} over ${id}`, [
      { op: 'add', path: pointer('peerings', id, user, 'usesPeerGateway'), value: true },
      { op: 'add', path: pointer('peerings', id, lending, 'lendsGateway'), value: true },
    ])
  }
  return null
}
