import { parseAddress, type Address } from '../address/address'
import { containsAddress, prefixOf } from '../address/prefix'
import type { Estate } from '../format/estate'
import { splitRef } from '../format/ref'
import type { Model } from '../model/model'
import type { PacketJson } from '../packet/packet'
import type { Branch, StationJson } from '../trace/branch'
import type { Cause } from '../walk/causes'
import type { LookUpEvidence } from '../walk/words'
import { pointer, type Operation } from '../changes/index'

/** Where and how a packet was lost, as recipes need it. */
export interface Situation {
  readonly model: Model
  readonly estate: Estate
  readonly branch: Branch
  readonly cause: Pick<Cause, 'code' | 'object' | 'direction'>
  /** Section and id of what failed. */
  readonly section: string
  readonly id: string
  /** The stations of its direction up to the one that failed. */
  readonly stations: readonly StationJson[]
  readonly packet: PacketJson
  readonly dst: Address
  readonly src: Address
  /** The look-up whose winner led there. */
  readonly lookup: Looked | null
  /** The network that looked up, else the one of what failed. */
  readonly network: string | null
}

export interface Looked {
  readonly subnet: string
  readonly table: string | null
  /** The winner's place in that table, or −1. */
  readonly entry: number
}

/** The situation of a cause in a branch of a trace, as recipes need it. */
export function situationOf(
  model: Model,
  branch: Branch,
  cause: Situation['cause'],
  station: number,
): Situation {
  const { estate } = model
  const lane = cause.direction === 'forward' ? branch.forward : branch.return!
  const stations = lane.stations.slice(0, station + 1)
  const { packet } = stations.at(-1)!
  const lookup = lookedUpLast(stations)
  const [section, id] = splitRef(cause.object)
  const subnet =
    lookup?.subnet ??
    (section === 'subnets'
      ? id
      : section === 'interfaces'
        ? estate.interfaces.get(id)?.subnet
        : undefined)
  const own =
    estate.routeTables.get(section === 'routeTables' ? id : '')?.network ??
    (section === 'networks' ? id : undefined)
  const network = estate.subnets.get(subnet ?? '')?.network ?? own ?? null
  return {
    model,
    estate,
    branch,
    cause,
    section,
    id,
    stations,
    packet,
    dst: parseAddress(packet.dst)!,
    src: parseAddress(packet.src)!,
    lookup,
    network,
  }
}

/** The last look-up among some stations; null where there is none. */
export function lookedUpLast(stations: readonly StationJson[]): Looked | null {
  const station = [...stations]
    .reverse()
    .find((one) => one.kind === 'lookup' && 'subnet' in one.evidence)
  if (!station) return null
  const { subnet, table, candidates } = station.evidence as LookUpEvidence
  const winner = candidates.find((one) => one.outcome === 'won')
  return {
    subnet: splitRef(subnet)[1],
    table: table && splitRef(table)[1],
    entry: winner?.table === table && table !== null ? (winner.entry ?? -1) : -1,
  }
}

/** The network of an estate that has an address in its ranges. */
export const networkWith = (estate: Estate, address: Address): string | undefined =>
  [...estate.networks].find(([, network]) => covers(network.ranges, address))?.[0]

/** Whether some ranges contain an address. */
export const covers = (ranges: readonly string[] | undefined, address: Address): boolean =>
  (ranges ?? []).some((text) => containsAddress(prefixOf(text), address))

/** Whether an object is there and up. */
export const isUp = (object: { readonly state?: string } | undefined): boolean =>
  object !== undefined && (object.state ?? 'up') === 'up'

/** An address as a prefix of its own. */
export const host = (address: string): string => `${address}/${address.includes(':') ? 128 : 32}`
const everything = (address: Address): string =>
  typeof address === 'number' ? '0.0.0.0/0' : '::/0'

/**
 * What a route that is written for an address should be written to: the range it lies in, or
 * everything.
 */
export function prefixFor({ estate }: Situation, address: Address): string {
  const ranges = [...estate.networks.values(), ...estate.sites.values()].flatMap(
    (object) => object.ranges ?? [],
  )
  return ranges.find((text) => containsAddress(prefixOf(text), address)) ?? everything(address)
}

/** An id that a section does not have yet: the wanted one, else with a number. */
export function freeId(section: ReadonlyMap<string, unknown>, wanted: string): string {
  if (!section.has(wanted)) return wanted
  let number = 2
  while (section.has(`${wanted}-${number}`)) number++
  return `${wanted}-${number}`
}

/** Brings an object up, with the subnet and the network it lies in. */
export function bringUp(estate: Estate, section: string, id: string): Operation[] {
  const sections = estate as unknown as Record<
    string,
    ReadonlyMap<string, Record<string, unknown>> | undefined
  >
  const object = sections[section]?.get(id)
  if (!object) return []
  const own: Operation[] = isUp(object)
    ? []
    : [{ op: 'remove', path: pointer(section, id, 'state') }]
  const placement = object.placement as { subnet?: string } | undefined
  const inside = [
    ...new Set(
      [
        object.subnet,
        placement?.subnet,
        ...((section === 'frontends' && (object.subnets as string[])) || []),
      ].filter((x) => typeof x === 'string'),
    ),
  ].flatMap((subnet) => bringUp(estate, 'subnets', subnet))
  const network =
    typeof object.network === 'string' && section !== 'routeTables'
      ? bringUp(estate, 'networks', object.network)
      : []
  const sides =
    section === 'peerings'
      ? [object.a, object.b].flatMap((side) =>
          bringUp(estate, 'networks', (side as { network: string }).network),
        )
      : []
  return [...own, ...inside, ...network, ...sides].filter(
    (one, i, all) => all.findIndex((other) => other.path === one.path) === i,
  )
}
