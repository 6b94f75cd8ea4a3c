import type { Gateway, Estate } from '../../src'
import { type Bits, isV4, covers, prefixBits } from './bits'
import { atNat, atTransit } from './elements'
import { deliver, atInterface, follow } from './inside'
import { crossPeering } from './peerings'
import { type Journey, mayUndo, lose, undoLatest, translate, enter } from './journey'
import { oneToOne } from './outside'
import { tableAt, transitBrings, peersOf } from './routes'
import { networkOf, there, up, prefixesOf, firstById, inNetwork } from './world'

export function intoNat(j: Journey, id: string): never {
  const nat = j.estate.nats.get(id)!
  const ref = `nats/${id}`
  if (!j.answering || !mayUndo(j, ref, 'src') || nat.network === undefined) {
    j.way.push(ref)
    return lose(j, j.answering ? 'nat-no-flow' : 'nat-outbound-only', ref)
  }
  throughDoor(j, nat.network, nat.placement?.subnet)
  if (nat.placement?.subnet !== undefined) return atNat(j, id, null)
  undoLatest(j)
  j.way.push(ref)
  return deliver(j, nat.network, null)
}

export function intoFirewall(j: Journey, iface: string): never {
  const subnet = j.estate.interfaces.get(iface)!.subnet!
  throughDoor(j, networkOf(j.estate, subnet), subnet)
  return atInterface(j, iface, null)
}

export function inByAddress(j: Journey, network: string, subnet: string, inner: Bits): never {
  const door = throughDoor(j, network, subnet)
  translate(j, oneToOne(network), 'dst', inner)
  return pastDoor(j, network, door)
}

/** The door by which a packet from the internet comes in; null for the built-in one. */
export function throughDoor(
  j: Journey,
  network: string,
  subnet: string | undefined,
): string | null {
  const { estate } = j
  const v4 = isV4(j.packet.dst)
  const all = [...estate.gateways].filter(
    ([, one]) =>
      there(one) &&
      one.network === network &&
      (one.kind === 'internet' || (one.kind === 'outbound-v6' && !v4)),
  )
  const open = all.filter(([, one]) => up(one) && up(estate.networks.get(network)))
  const table =
    subnet === undefined ? undefined : estate.routeTables.get(tableAt(estate, subnet) ?? '')
  const byDefault = (up(table) ? (table!.routes ?? []) : [])
    .filter((route) => up(route) && prefixesOf(estate, route.to).includes(v4 ? '4' : '6'))
    .flatMap((route) => (typeof route.via === 'object' ? (route.via.gateway ?? []) : []))
  const doors = open.filter(([, one]) => one.kind === 'internet')
  const door =
    (j.answering ? open : doors).find(([id]) => id === byDefault[0]) ??
    firstById(doors) ??
    firstById(open)
  const behaviour = estate.networks.get(network)!.behaviour ?? 'table-routed'
  if (
    behaviour !== 'table-routed' &&
    (!door || (behaviour === 'default-open' && door[0] !== byDefault[0]))
  ) {
    j.way.push('internet')
    return null
  }
  if (!door)
    return lose(
      j,
      'no-internet-gateway',
      all.length > 0 ? `gateways/${firstById(all)![0]}` : `networks/${network}`,
    )
  j.way.push(`gateways/${door[0]}`)
  if (door[1].kind === 'outbound-v6' && !j.answering)
    return lose(j, 'gateway-outbound-only', `gateways/${door[0]}`)
  return door[0]
}

/** Inside the door: its own table may lead elsewhere, else local. */
export function pastDoor(j: Journey, network: string, door: string | null): never {
  return byIngress(j, door === null ? undefined : j.estate.gateways.get(door), network, () =>
    deliver(j, network, null),
  )
}

function byIngress(
  j: Journey,
  gateway: Gateway | undefined,
  network: string,
  local: () => never,
): never {
  const id = gateway?.routeTable
  const table = id === undefined ? undefined : there(j.estate.routeTables.get(id))
  if (!table || !up(table)) return local()
  const routes = (table.routes ?? [])
    .filter((route) => up(route))
    .flatMap((route) =>
      prefixesOf(j.estate, route.to).map((prefix) => ({ prefix, via: route.via })),
    )
    .filter(({ prefix }) => covers(prefix, j.packet.dst))
  const longest = Math.max(...routes.map(({ prefix }) => prefix.length))
  const best = routes.filter(({ prefix }) => prefix.length === longest)
  const via = best.length === 0 ? 'local' : j.choose(best).via
  if (via === 'local') return local()
  const blame = `routeTables/${id}`
  return follow(j, null, network, { via, blame })
}

/**
 * From a site into the cloud, by every gateway that announces the longest prefix round the
 * destination.
 */

export function fromSite(j: Journey, site: string): never {
  const { estate } = j
  enter(j, `site ${site}`)
  if (j.answering && mayUndo(j, `sites/${site}`, 'src')) undoLatest(j)
  const { dst } = j.packet
  const ways: { gateway: string; transit: [string, string] | null; length: number }[] = []
  const add = (
    gateway: string,
    announced: readonly Bits[],
    transit: [string, string] | null,
  ): void => {
    const lengths = announced.filter((prefix) => covers(prefix, dst)).map((prefix) => prefix.length)
    if (lengths.length > 0) ways.push({ gateway, transit, length: Math.max(...lengths) })
  }
  for (const [id, gateway] of estate.gateways) {
    if (gateway.kind !== 'private' || gateway.site !== site || !up(gateway)) continue
    const written = gateway.announces?.map(prefixBits)
    if (gateway.network !== undefined && up(estate.networks.get(gateway.network))) {
      const users = usersOf(estate, gateway.network)
      add(
        id,
        written ??
          [gateway.network, ...users].flatMap((n) =>
            (estate.networks.get(n)!.ranges ?? []).map(prefixBits),
          ),
        null,
      )
    }
    for (const [transit, { attachments = {}, ...rest }] of estate.transits)
      for (const [name, attachment] of Object.entries(attachments))
        if (up(rest) && attachment.gateway === id && up(attachment))
          add(id, written ?? transitBrings(estate, transit, name), [transit, name])
  }
  const longest = Math.max(...ways.map(({ length }) => length))
  const best = ways.filter(({ length }) => length === longest)
  if (best.length === 0)
    return lose(j, j.answering ? 'site-has-no-route-back' : 'site-has-no-route', `sites/${site}`)
  const { gateway, transit } = j.choose(best)
  j.way.push(`gateways/${gateway}`)
  if (transit) return atTransit(j, transit[0], transit[1])
  const network = estate.gateways.get(gateway)!.network!
  return byIngress(j, estate.gateways.get(gateway), network, () => {
    const user = inNetwork(estate.networks.get(network), dst)
      ? undefined
      : usersOf(estate, network).find((id) => inNetwork(estate.networks.get(id), dst))
    if (user === undefined) return deliver(j, network, null)
    const peering = [...peersOf(estate, user)]
      .filter((p) => p.other === network && p.uses && p.lends)
      .map((p) => p.peering)
      .sort()[0]!
    crossPeering(j, peering, network, 'lent')
    return deliver(j, user, null)
  })
}

const usersOf = (estate: Estate, lender: string): string[] =>
  [...estate.networks.keys()].filter(
    (id) =>
      id !== lender &&
      there(estate.networks.get(id)) &&
      peersOf(estate, id).some((p) => p.other === lender && p.uses && p.lends),
  )
