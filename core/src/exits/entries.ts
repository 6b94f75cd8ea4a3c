import {
  familyOf,
  formatAddress,
  parseAddress,
  type Address,
  type Family,
} from '../address/address'
import { formatPrefix, prefixOf } from '../address/prefix'
import { prefixesOfRange, rangeSet, rangeSetOf, type Range, type RangeSet } from '../address/ranges'
import { eachFlow, type Flow } from '../flows/flow'
import { outcomeAt, hopsOf, type HopMemo } from '../hops/hops'
import type { HostKind } from '../hops/kinds'
import type { Outcome } from '../hops/outcome'
import type { Model, SubnetModel } from '../model/model'
import { allPackets, type PacketBox } from '../packet/packet-set'
import type { End } from '../walk/state'
import { lowestInternetAddress } from '../walk/public-address'
import { doorsTo } from './doors'
import type { ExitColumn } from './columns'
import { kindOf, type ExitRow, type ExitWay } from './exits'

const only = (value: Address): Range => ({ from: value, to: value })

/** A way that leads to some hosts of a subnet. */
interface Entry {
  readonly outcome: Pick<Outcome, 'ways' | 'seenAs' | 'reaches'>
  readonly host: number
  /** The address by which it is asked for. */
  readonly address: Address
  readonly family: Family
  /** Where its packets come from. */
  readonly sources: readonly Range[]
  readonly from: string
}

/**
 * By what traffic enters a subnet from each kind of place, as far as routes, translators and
 * firewalls’ own doors decide it: the matrix of Exits, turned. Rules are left to Ways in. Services
 * open no flows of their own, so nothing enters from there.
 */
export function entriesOf(model: Model, subnet: SubnetModel, memo: HopMemo): ExitRow {
  const hosts = hostsOf(model, subnet)
  const whole = (ways: readonly Entry[]): ExitWay[] => describe(model, hosts, ways)
  return {
    subnet: subnet.id,
    internet: whole(hosts.flatMap((index) => fromInternet(model, index))),
    services: [],
    sites: whole([...model.index.sites.keys()].flatMap((site) => fromSite(model, site, hosts))),
    otherNetworks: whole(fromSubnets(model, subnet, hosts, memo, elsewhere(model, subnet))),
    sameNetwork: whole(
      fromSubnets(model, subnet, hosts, memo, model.networks[subnet.network]!.subnets),
    ),
  }
}

/** By what traffic enters a subnet from some members of a column, in the order they are named. */
export function entriesFrom(
  model: Model,
  subnet: SubnetModel,
  column: ExitColumn,
  members: readonly string[],
  memo: HopMemo,
): ExitWay[][] {
  const hosts = hostsOf(model, subnet)
  if (column === 'sites')
    return members.map((id) => describe(model, hosts, fromSite(model, id, hosts)))
  if (column !== 'otherNetworks') return members.map(() => [])
  return members.map((id) => {
    const network = model.networks[model.index.networks.get(id) ?? -1]
    const others = network && network.index !== subnet.network ? network.subnets : []
    return describe(model, hosts, fromSubnets(model, subnet, hosts, memo, others))
  })
}

/** The hosts of a subnet that are there. A firewall's own sides are on the way, not at its end. */
const hostsOf = (model: Model, subnet: SubnetModel): number[] =>
  subnet.interfaces.filter(
    (index) =>
      model.interfaces[index]!.up &&
      model.index.interfaces.has(model.interfaces[index]!.id) &&
      !model.firewallAt.has(index),
  )

/**
 * Every address that packets to the hosts of a subnet may come from, as far as routes and
 * translators decide it.
 */
export function arrivingFrom(model: Model, subnet: SubnetModel, memo: HopMemo): RangeSet {
  const hosts = hostsOf(model, subnet)
  const entries = [
    ...hosts.flatMap((index) => fromInternet(model, index)),
    ...[...model.index.sites.keys()].flatMap((site) => fromSite(model, site, hosts)),
    ...fromSubnets(model, subnet, hosts, memo, elsewhere(model, subnet)),
  ]
  const seen = entries.flatMap(({ outcome, sources }) =>
    outcome.seenAs.length === 0
      ? sources
      : outcome.seenAs.flatMap((text) => parseAddress(text) ?? []).map(only),
  )
  // Hosts of the same subnet ask each other too.
  return rangeSet([...seen, ...rangeSetOf(model.networks[subnet.network]!.ranges)])
}

/** The frontends that hand flows to an interface, by their public addresses. */
const frontendsOf = (model: Model, index: number): Address[] =>
  model.frontends.flatMap((one) => {
    if (!one.up || !one.listeners.some(({ targets }) => targets.includes(index))) return []
    return (model.estate.frontends.get(one.id)?.publicAddresses ?? []).map(
      (text) => prefixOf(`${text}/${text.includes(':') ? 128 : 32}`).address,
    )
  })

function fromInternet(model: Model, index: number): Entry[] {
  return [...doorsTo(model, index), ...frontendsOf(model, index)].flatMap((door) => {
    const family = familyOf(door)
    const src = lowestInternetAddress(model, family)
    const flows = flowsTo(model, { in: 'outside', ref: 'internet' }, src, door, index)
    return waysOf(flows).map((outcome): Entry => ({
      outcome,
      host: index,
      address: door,
      family,
      sources: model.internetSpace.filter((range) => familyOf(range.from) === family),
      from: 'internet',
    }))
  })
}

function fromSite(model: Model, site: string, hosts: readonly number[]): Entry[] {
  const ranges = rangeSetOf((model.estate.sites.get(site)?.ranges ?? []).map(prefixOf))
  return hosts.flatMap((index) =>
    model.interfaces[index]!.addresses.flatMap((address) => {
      const family = familyOf(address)
      const sources = ranges.filter((range) => familyOf(range.from) === family)
      if (sources.length === 0) return []
      const flows = flowsTo(
        model,
        { in: 'outside', ref: `sites/${site}` },
        sources[0]!.from,
        address,
        index,
      )
      return waysOf(flows).map((outcome): Entry => ({
        outcome: { ...outcome, reaches: `sites/${site}` },
        host: index,
        address,
        family,
        sources,
        from: `site:${site}`,
      }))
    }),
  )
}

/** The subnets of other networks. */
const elsewhere = (model: Model, { network }: SubnetModel): number[] =>
  [...model.index.subnets.values()].filter((number) => model.subnets[number]!.network !== network)

/** What hosts of other subnets send here arrives by the ways that their next hops take. */
function fromSubnets(
  model: Model,
  subnet: SubnetModel,
  hosts: readonly number[],
  memo: HopMemo,
  others: readonly number[],
): Entry[] {
  // Networks may have the same addresses: whether a way comes here, and not there, one packet
  // tells.
  const comesHere = new Map<string, boolean>()
  return others.flatMap((number) => {
    const other = model.subnets[number]!
    if (number === subnet.index || !other.up) return []
    return hopsOf(model, other, memo).flatMap((table) => {
      const [first] = table.kind.interfaces
      const from =
        first === undefined ? `subnet:${other.id}` : `interface:${model.interfaces[first]!.id}`
      return hosts.flatMap((index) =>
        model.interfaces[index]!.addresses.flatMap((address): Entry[] => {
          const family = familyOf(address)
          if (table.kind.sources[family] === null) return []
          const hop = outcomeAt(model, other, table, address, memo)
          if (hop === null || hop.cause !== null || hop.reaches !== null) return []
          const way = `${index} ${hop.ways.join(';')}`
          let comes = comesHere.get(way)
          if (comes === undefined)
            comesHere.set(
              way,
              (comes =
                flowsTo(model, endOf(table.kind), table.kind.sources[family], address, index)
                  .length > 0),
            )
          if (!comes) return []
          return [
            {
              outcome: hop,
              host: index,
              address,
              family,
              sources: rangeSetOf(
                other.ranges.filter((range) => familyOf(range.address) === family),
              ),
              from,
            },
          ]
        }),
      )
    })
  })
}

const endOf = ({ place, ref }: HostKind): End => ({ in: 'subnet', place, ref })

/** Every flow to an address, whatever the rules say of it, that comes to a host. */
function flowsTo(model: Model, end: End, src: Address, dst: Address, index: number): Flow[] {
  const box: PacketBox = { ...allPackets(familyOf(dst)), src: only(src), dst: only(dst) }
  const flows: Flow[] = []
  const take = (flow: Flow): void => {
    if (
      flow.branches.some(
        ({ delivered, deliveredAt }) =>
          delivered && deliveredAt?.in === 'subnet' && deliveredAt.place.interface === index,
      )
    )
      flows.push(flow)
  }
  eachFlow(model, end, [box], false, take, { ignoresRules: true })
  return flows
}

function waysOf(flows: readonly Flow[]): Pick<Outcome, 'ways' | 'seenAs' | 'reaches'>[] {
  const found = new Map<string, Pick<Outcome, 'ways' | 'seenAs' | 'reaches'>>()
  for (const { branches } of flows) {
    for (const { delivered, way, seenAs } of branches) {
      if (delivered)
        found.set(`${way.join()} ${seenAs.join()}`, { ways: [way], seenAs, reaches: null })
    }
  }
  return [...found.values()]
}

/** No cell lists more sources of one way; the rest is counted. */
const MOST_SHOWN = 24

/** One way for all that come by the same, with the hosts it leads to. */
function describe(model: Model, all: readonly number[], entries: readonly Entry[]): ExitWay[] {
  const groups = new Map<string, Entry[]>()
  for (const entry of entries) {
    const { outcome, family } = entry
    const key = `${family} ${outcome.ways.join(';')} ${outcome.seenAs.join()}`
    const group = groups.get(key)
    if (group) group.push(entry)
    else groups.set(key, [entry])
  }
  const most = Math.max(0, ...[...groups.values()].map((group) => group.length))
  const id = (index: number): string => model.interfaces[index]!.id
  return [...groups.values()]
    .sort((a, b) => b.length - a.length)
    .map((group): ExitWay => {
      const [{ outcome, family, from, host, address }] = group as [Entry]
      const [first = []] = outcome.ways
      const prefixes = rangeSet(group.flatMap((one) => one.sources)).flatMap(prefixesOfRange)
      const hosts = new Set(group.map((one) => one.host))
      const widest = group.length === most
      return {
        kind: kindOf({ ...outcome, cause: null }),
        // What stands nearest to the subnet.
        by: first.at(-1) ?? null,
        way: first,
        branches: outcome.ways.length - 1,
        leavesBy: null,
        seenAs: outcome.seenAs,
        cause: null,
        ranges:
          widest && from === 'internet' ? null : prefixes.slice(0, MOST_SHOWN).map(formatPrefix),
        moreRanges: widest && from === 'internet' ? 0 : Math.max(0, prefixes.length - MOST_SHOWN),
        family,
        hosts: hosts.size === all.length ? null : [...hosts].map(id),
        question: {
          from,
          to:
            model.interfaces[host]!.addresses[0] === address
              ? `interface:${id(host)}`
              : formatAddress(address),
        },
      }
    })
}
