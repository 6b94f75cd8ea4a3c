import { formatAddress } from '../address/address'
import { containsAddress, prefixOf } from '../address/prefix'
import { pointer, type Operation } from '../changes/index'
import { remedy, type Remedy } from './remedy'
import { bringUp, freeId, host, isUp, networkWith, prefixFor, type Situation } from './situation'

/**
 * For a subnet that has no table of its own: one of its network that leads to the destination. One
 * that nobody uses was most likely made for it; else one of a neighbour of the same role.
 */
export function tableThatLeads({ estate, lookup, dst }: Situation): string | null {
  const subnet = estate.subnets.get(lookup?.subnet ?? '')
  if (
    !subnet ||
    subnet.routeTable !== undefined ||
    estate.networks.get(subnet.network)?.behaviour === 'priority-routed'
  )
    return null
  const leads = [...estate.routeTables].filter(
    ([id, table]) =>
      id !== lookup!.table &&
      table.network === subnet.network &&
      isUp(table) &&
      table.routes?.some(
        (route) =>
          isUp(route) &&
          route.via !== 'drop' &&
          typeof route.to === 'string' &&
          containsAddress(prefixOf(route.to), dst),
      ),
  )
  const users = (id: string) => [...estate.subnets.values()].filter((one) => one.routeTable === id)
  const idle = leads.find(
    ([id]) =>
      users(id).length === 0 &&
      ![...estate.gateways.values()].some((gateway) => gateway.routeTable === id),
  )
  const alike = leads.find(([id]) =>
    users(id).some((one) => one.role !== undefined && one.role === subnet.role),
  )
  return (idle ?? alike)?.[0] ?? null
}

/**
 * A translator's subnet gets a table of its own where it shares one with those that are routed to
 * it.
 */
export function wayOutFor(s: Situation, subnet: string, gateway: string): Remedy | null {
  const id = freeId(s.estate.routeTables, `${subnet}-out`)
  const { network } = s.estate.subnets.get(subnet)!
  const to = typeof s.dst === 'number' ? '0.0.0.0/0' : '::/0'
  return remedy(`give ${subnet} a table that leads out by ${gateway}`, [
    {
      op: 'add',
      path: pointer('routeTables', id),
      value: { network, routes: [{ to, via: { gateway } }] },
    },
    { op: 'add', path: pointer('subnets', subnet, 'routeTable'), value: id },
  ])
}

/** A route in the transit's table of the sender's attachment, towards the destination's network. */
export function transitRoute(s: Situation): Remedy | null {
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
  return remedy(`route ${route.to} by ${towards} in ${s.id}`, [change])
}

/** A route of the firewall's own, to the first address of its outside or first subnet. */
export function firewallRoute(s: Situation): Remedy | null {
  const firewall = s.estate.firewalls.get(s.id)
  if (firewall?.style !== 'routed') return null
  const side = firewall.interfaces?.outside ?? Object.values(firewall.interfaces ?? {})[0]
  const range = s.estate.subnets.get(s.estate.interfaces.get(side ?? '')?.subnet ?? '')?.ranges[0]
  const first = range === undefined ? null : prefixOf(range).address
  if (typeof first !== 'number') return null
  const route = { to: host(s.packet.dst), via: { address: formatAddress(first + 1) } }
  const path = pointer('firewalls', s.id, 'routes')
  return remedy(`a route of ${s.id} to ${s.packet.dst}`, [
    firewall.routes
      ? { op: 'add', path: `${path}/-`, value: route }
      : { op: 'add', path, value: [route] },
  ])
}

/**
 * The route of a transit's table or of a firewall that drops the destination is taken out: the
 * longest that covers it.
 */
export function withoutOwnRoute(s: Situation, section: 'transits' | 'firewalls'): Remedy | null {
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
      return remedy(`take the route that drops it out of ${s.id}`, [
        { op: 'remove', path: `${path}/${at}` },
      ])
  }
  return null
}

/** The table of a gateway without its route that drops the destination. */
export function ingressWithoutDrop(s: Situation): Remedy | null {
  const routes = s.estate.routeTables.get(s.id)?.routes ?? []
  const at = routes.findIndex(
    (one) =>
      one.via === 'drop' && typeof one.to === 'string' && containsAddress(prefixOf(one.to), s.dst),
  )
  return at < 0
    ? null
    : remedy(`take the route that drops it out of ${s.id}`, [
        { op: 'remove', path: pointer('routeTables', s.id, 'routes', at) },
      ])
}

/** The smallest range round the destination that is in no subnet yet. */
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

/** A private gateway of the site announces the range, or is brought up, or the peering lends it. */
export function announce(s: Situation): Remedy | null {
  const target = networkWith(s.estate, s.dst)
  const own = [...s.estate.gateways].filter(([, g]) => g.kind === 'private' && g.site === s.id)
  const near = own.find(([, g]) => g.network === target)
  const range = prefixFor(s, s.dst)
  if (near) {
    const [id, gateway] = near
    const up = bringUp(s.estate, 'gateways', id)
    if (up.length > 0) return remedy(`bring ${id} up`, up)
    const path = pointer('gateways', id, 'announces')
    return remedy(`announce ${range} by ${id}`, [
      gateway.announces
        ? { op: 'add', path: `${path}/-`, value: range }
        : { op: 'add', path, value: [range] },
    ])
  }
  for (const [id, { a, b }] of s.estate.peerings) {
    const lender = own.find(
      ([, g]) => g.network !== undefined && [a.network, b.network].includes(g.network),
    )?.[1].network
    if (lender === undefined || ![a.network, b.network].includes(target ?? '')) continue
    const [user, lending] = a.network === lender ? (['b', 'a'] as const) : (['a', 'b'] as const)
    return remedy(`let ${target} use the gateways of ${lender} over ${id}`, [
      { op: 'add', path: pointer('peerings', id, user, 'usesPeerGateway'), value: true },
      { op: 'add', path: pointer('peerings', id, lending, 'lendsGateway'), value: true },
    ])
  }
  return null
}
