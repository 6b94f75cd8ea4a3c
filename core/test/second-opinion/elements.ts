import { isV4, coveredBy, bitsOf, covers } from './bits'
import { atFirewall } from './firewalls'
import { send, deliver } from './inside'
import { type Journey, enter, askEdge, mayUndo, lose, undoLatest, translate } from './journey'
import { leaveBySite } from './outside'
import { transitRoutes } from './routes'
import { there, subnetThere, networkOf, up, subnetUp, subnetAt } from './world'

/** Into a NAT that is placed in a subnet, and on from there. */

export function atNat(j: Journey, id: string, fromSubnet: string | null): never {
  const nat = j.estate.nats.get(id)!
  const subnet = nat.placement!.subnet!
  const ref = `nats/${id}`
  enter(j, `nat ${id} ${fromSubnet}`)
  if (fromSubnet !== subnet) askEdge(j, subnet, 'in')
  j.way.push(ref)
  if (j.answering) {
    if (!mayUndo(j, ref, 'src')) return lose(j, 'nat-no-flow', ref)
    undoLatest(j)
  } else {
    if (j.nat === id) return lose(j, 'looped', ref)
    natTranslates(j, id)
    if ((nat.kind ?? 'public') === 'public') j.nat = id
  }
  return send(j, { spot: { subnet, iface: null }, as: 'nat', name: ref })
}

/** A NAT gives the packet one of its addresses. */

export function natTranslates(j: Journey, id: string): void {
  const nat = j.estate.nats.get(id)!
  const ref = `nats/${id}`
  if (!isV4(j.packet.dst)) lose(j, 'nat-wrong-family', ref)
  const rule = [...(nat.rules ?? [])]
    .sort((a, b) => a.order - b.order)
    .find(({ to }) => coveredBy(to, j.packet.dst))
  const pool = (rule?.use ?? nat.addresses ?? []).filter((text) => !nat.draining?.includes(text))
  if (pool.length === 0) lose(j, 'nat-no-address', ref)
  translate(j, ref, 'src', bitsOf(pool[0]!))
  j.seenAs = [...pool]
}

const nameParts = (name: string): string[] => [
  name.slice(0, name.lastIndexOf('/')),
  name.slice(name.lastIndexOf('/') + 1),
]

export function endpointOf(j: Journey, name: string) {
  const [id = '', label = ''] = nameParts(name)
  const firewall = j.estate.firewalls.get(id)
  return firewall?.style === 'inline' ? firewall.endpoints?.[label] : undefined
}

/** Through an inline firewall's endpoint and on by its subnet's table. */

export function atInspection(
  j: Journey,
  name: string,
  network: string,
  fromSubnet: string | null,
  blame: string,
): never {
  const [id = '', label = ''] = nameParts(name)
  const firewall = j.estate.firewalls.get(id)
  const endpoint = endpointOf(j, name)
  const ref = `firewalls/${id}`
  if (!there(firewall) || !there(endpoint) || !subnetThere(j.estate, endpoint!.subnet))
    return lose(j, 'target-missing', blame)
  const { subnet } = endpoint!
  if (networkOf(j.estate, subnet) !== network) return lose(j, 'target-elsewhere', ref)
  if (!up(firewall) || !up(endpoint) || !subnetUp(j.estate, subnet))
    return lose(j, 'target-not-up', ref)
  if (fromSubnet !== subnet) askEdge(j, subnet, 'in')
  return atFirewall(j, null, { firewall: id, label }, subnet)
}

/** Into a transit by one of its attachments, and out by another. */

export function atTransit(j: Journey, id: string, attachment: string): never {
  const { estate } = j
  const ref = `transits/${id}`
  enter(j, `${ref} ${attachment}`)
  const transit = estate.transits.get(id)!
  j.way.push(ref)
  if (!up(transit)) return lose(j, 'target-not-up', ref)
  const all = transitRoutes(estate, id, attachment).filter(({ prefix }) =>
    covers(prefix, j.packet.dst),
  )
  const length = Math.max(...all.map(({ prefix }) => prefix.length))
  const best = all.filter(({ prefix }) => prefix.length === length)
  const winners = best.some((one) => !one.learned) ? best.filter((one) => !one.learned) : best
  if (winners.length === 0) return lose(j, 'no-route', ref)
  const { via } = j.choose(winners)
  if (via === 'drop') return lose(j, 'drop-route', ref)
  const out = transit.attachments?.[via]
  if (!there(out)) return lose(j, 'target-missing', ref)
  if (!up(out)) return lose(j, 'target-not-up', ref)
  if (out!.gateway !== undefined) {
    const gateway = estate.gateways.get(out!.gateway)
    if (!there(gateway)) return lose(j, 'target-missing', ref)
    if (!up(gateway)) return lose(j, 'target-not-up', `gateways/${out!.gateway}`)
    return leaveBySite(j, out!.gateway)
  }
  if (out!.transit !== undefined) {
    const other = estate.transits.get(out!.transit)
    if (!there(other)) return lose(j, 'target-missing', ref)
    const back = Object.entries(other!.attachments ?? {}).find(([, a]) => a.transit === id && up(a))
    return back
      ? atTransit(j, out!.transit, back[0])
      : lose(j, 'target-elsewhere', `transits/${out!.transit}`)
  }
  const network = out!.network!
  if (!there(estate.networks.get(network))) return lose(j, 'target-missing', ref)
  const listed = (out!.subnets ?? []).filter((one) => subnetThere(estate, one))
  const home = subnetAt(estate, network, j.packet.dst)
  const zone = home === undefined ? undefined : estate.subnets.get(home)!.zone
  const edge =
    listed.find((one) => zone !== undefined && estate.subnets.get(one)!.zone === zone) ?? listed[0]
  if (edge === undefined) return deliver(j, network, null)
  if (!subnetUp(estate, edge)) return lose(j, 'target-not-up', ref)
  askEdge(j, edge, 'in')
  return send(j, { spot: { subnet: edge, iface: null }, as: 'edge', name: `edge of ${edge}` })
}
