import { parseAddress } from '../../address/address'
import { containsAddress, prefixOf } from '../../address/prefix'
import { pointer } from '../../changes/index'
import type { Via } from '../../format/estate'
import { splitRef } from '../../format/ref'
import { mend } from '../mend'
import { viaText } from '../../model/targets'
import { type Recipe, dropTheRoute } from './rerouting'
import { lookedUpLast, isUp, host, prefixFor, type Situation } from '../situation'
import { narrowPrefix } from './prefixes'
import { addRoute, setRoute } from './routes'
import { waysTowards } from './ways'

/**
 * For an answer that left by the wrong way: a route to the asker alone, by the gateway the flow
 * came in.
 */
export const answerByTheDoor: Recipe = (s) => {
  const first = lookedUpLast(s.stations)
  const gateway = [...s.estate.gateways].find(
    ([, g]) => isUp(g) && g.kind === 'internet' && g.network === s.network,
  )?.[0]
  return gateway === undefined
    ? null
    : mend(
        `answer ${s.packet.dst} by ${gateway}`,
        addRoute(s, first, host(s.packet.dst), { gateway }),
      )
}

/**
 * Makes the first look-up of the answer lead to the firewall that the flow went through or
 * bypassed.
 */
export const answerThroughTheFirewall: Recipe = (s) => {
  const firewall = s.estate.firewalls.get(s.id)
  const lane = s.branch.return!.stations
  const lookup = firstLookUp(lane)
  const asker = s.branch.forward.stations[0]!.packet.src
  if (firewall?.style === 'inline') {
    const label = Object.entries(firewall.endpoints ?? {}).find(
      ([, one]) => s.estate.subnets.get(one.subnet)?.network === networkOfSubnet(s, lookup?.subnet),
    )?.[0]
    return label === undefined
      ? null
      : mend(
          `answer by ${s.id}/${label}`,
          addRoute(s, lookup, prefixFor(s, parseAddress(asker)!), { inspect: `${s.id}/${label}` }),
        )
  }
  const sides = Object.values(firewall?.interfaces ?? {})
  const last = [...s.branch.forward.stations]
    .reverse()
    .find((one) => one.kind === 'rules' && sides.includes(one.at.slice('interfaces/'.length)))
  return last
    ? mend(
        `answer by ${s.id}`,
        addRoute(s, lookup, subnetRangeOf(s, asker), {
          interface: last.at.slice('interfaces/'.length),
        }),
      )
    : null
}

/** The first look-up of a lane; null where there is none. */
export const firstLookUp = (stations: Situation['stations']): Situation['lookup'] =>
  lookedUpLast(stations.slice(0, stations.findIndex((one) => one.kind === 'lookup') + 1))
const networkOfSubnet = ({ estate }: Situation, subnet: string | undefined): string | undefined =>
  estate.subnets.get(subnet ?? '')?.network
const subnetRangeOf = (s: Situation, address: string): string =>
  [...s.estate.subnets.values()]
    .flatMap((one) => one.ranges)
    .find((text) => containsAddress(prefixOf(text), parseAddress(address)!)) ?? host(address)

/**
 * For a firewall that only the answer meets: the answer bypasses it, as the flow did; else the
 * firewall decides packet by packet.
 */
export const answerPastTheFirewall: Recipe = (s) => {
  const via = waysTowards(s)[0]
  if (via !== undefined && s.lookup)
    return mend(`answer by ${viaText(via)}, past ${s.id}`, setRoute(s, via))
  return s.estate.firewalls.has(s.id)
    ? mend(`let ${s.id} decide packet by packet, without state`, [
        { op: 'add', path: pointer('firewalls', s.id, 'stateful'), value: false },
      ])
    : null
}

/**
 * For an answer that went to another network with the same addresses: it goes back over the peering
 * or transit that its flow crossed last.
 */
export const answerTheWayItCame: Recipe = (s) => {
  const via = cameBy(s)
  return via === null ? dropTheRoute(s) : mend(`answer by ${viaText(via)}`, setRoute(s, via))
}

/** The same for the range of the asker alone, where no other network has it. */
export const answerTheAskerTheWayItCame: Recipe = (s) => {
  const via = cameBy(s)
  const to = narrowPrefix(s)
  return via === null
    ? null
    : mend(`answer ${to} by ${viaText(via)}`, addRoute(s, s.lookup, to, via))
}

/** What a flow crossed last into the network it ended in. */
function cameBy(s: Situation): Via | null {
  const crossed = [...s.branch.forward.stations]
    .reverse()
    .find(
      ({ kind, at }) =>
        kind === 'peering' ||
        kind === 'transit' ||
        s.estate.gateways.get(splitRef(at)[1])?.kind === 'private',
    )
  if (!crossed) return null
  const id = splitRef(crossed.at)[1]
  if (crossed.kind === 'peering') return { peering: id }
  return crossed.kind === 'transit' ? { transit: id } : { gateway: id }
}
