import type { Address } from '../address/address'
import { addressOf, hostPrefix, prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, sameRanges, type Range, type RangeSet } from '../address/ranges'
import { canonical } from '../compare/compare'
import { MAP_SECTIONS, type MapSection } from '../format/schema/document'
import type { Model } from '../model/model'
import { inlineEndpointsIn, elementsAt, elementsIn } from './located'
import type { Pair } from './ends'
import { ruleReach, setsAtHost, type RuleReach } from './rule-reach'
import { changedEstateRules, changedRuleSets, leadAlike } from './touched-rules'
import { applies } from '../rules/applies-to'

/**
 * What a change touches, besides the routes that lead to it. Packets that meet none of it, and
 * whose effective next hops are as they were there and back, fare as they did.
 */
export interface Touched {
  /**
   * Elements of ways, as `section/id`, that behave otherwise, or at which other rules are asked.
   */
  readonly elements: Set<string>
  /** Hosts that are not the same, or whose own rules are not, by the ids of their interfaces. */
  readonly hosts: Set<string>
  /** Hosts of which only the rules differ, with who is reached by that, by interface. */
  readonly rules: Map<string, RuleReach>
  /** Destinations that lead to something else, whoever sends. */
  readonly addresses: Range[]
  /** Sites whose flows may come in otherwise, by id. */
  readonly sites: Set<string>
  /** Networks whose doors to the outside are not the same, by id. */
  readonly doors: Set<string>
  /** So much changed that every packet may fare otherwise. */
  everything: boolean
}

/** Compares two states object by object. Costs a step for each object; equal ones are identical. */
export function touchedBy(pair: Pair): Touched {
  const touched: Touched = {
    elements: new Set(),
    hosts: new Set(),
    rules: new Map(),
    addresses: [],
    sites: new Set(),
    doors: new Set(),
    everything: false,
  }
  const { before, after } = pair
  if (!sameRanges(before.internetSpace, after.internetSpace)) touched.everything = true
  for (const section of MAP_SECTIONS) {
    const [olds, news] = [before.estate[section], after.estate[section]]
    if (olds === news && section !== 'interfaces') continue
    for (const id of changedIds(olds, news)) TOUCH[section]?.(pair, touched, id)
  }
  touchStates(pair, touched)
  touchOwners(pair, touched)
  touchRules(pair, touched)
  return touched
}

/** The ids of objects that differ, came or went. */
function changedIds(
  before: ReadonlyMap<string, object>,
  after: ReadonlyMap<string, object>,
): string[] {
  const out: string[] = []
  for (const [id, one] of before) {
    const now = after.get(id)
    if (now !== one && (now === undefined || canonical(now) !== canonical(one))) out.push(id)
  }
  for (const id of after.keys()) if (!before.has(id)) out.push(id)
  return out
}

type Touch = (pair: Pair, touched: Touched, id: string) => void

const bothOf = ({ before, after }: Pair): readonly Model[] => [before, after]

/** What it means that an object of a section differs; sections without an entry lead no packets. */
const TOUCH: { readonly [S in MapSection]?: Touch } = {
  networks: touchNetwork,
  subnets: (pair, touched, id) => {
    const keys = [
      'network',
      'ranges',
      'namedRanges',
      'zone',
      'region',
      'boundary',
      'ruleSets',
    ] as const
    const own = [...keys, 'givesPublicAddresses', 'tags', 'state'] as const
    const [old, now] = bothOf(pair).map(
      (model) => model.estate.subnets.get(id) as Loose | undefined,
    )
    if (!old || !now || own.some((key) => canonical(old[key]) !== canonical(now[key])))
      touchSubnet(pair, touched, id)
  },
  interfaces: touchInterface,
  gateways: (pair, touched, id) => {
    touched.elements.add(`gateways/${id}`)
    for (const model of bothOf(pair)) touchGateway(model, touched, model.index.gateways.get(id))
  },
  routeTables: (pair, touched, id) => {
    for (const model of bothOf(pair)) {
      const table = model.index.routeTables.get(id)
      for (const gateway of model.gateways)
        if (table !== undefined && gateway.table === table) {
          touched.elements.add(gateway.ref)
          touchGateway(model, touched, gateway.index)
        }
    }
  },
  nats: (_, touched, id) => void touched.elements.add(`nats/${id}`),
  peerings: (pair, touched, id) => {
    touched.elements.add(`peerings/${id}`)
    allSites(pair, touched)
  },
  transits: (pair, touched, id) => {
    touched.elements.add(`transits/${id}`)
    allSites(pair, touched)
  },
  firewalls: (pair, touched, id) => touchFirewall(pair, touched, id),
  frontends: (pair, touched, id) => {
    for (const model of bothOf(pair)) {
      const index = model.index.frontends.get(id)
      if (index !== undefined) touchFrontend(model, touched, index)
    }
  },
  endpoints: (pair, touched, id) => {
    touched.elements.add(`endpoints/${id}`)
    for (const model of bothOf(pair)) {
      for (const [index, endpoint] of model.endpointAt)
        if (endpoint === id) touched.hosts.add(model.interfaces[index]!.id)
    }
  },
  sites: (pair, touched, id) => {
    touched.sites.add(id)
    touchRanges(pair, touched, 'sites', id)
  },
  services: (pair, touched, id) => {
    touchRanges(pair, touched, 'services', id)
    for (const model of bothOf(pair))
      for (const [endpoint, { service }] of model.estate.endpoints)
        if (service === id) touched.elements.add(`endpoints/${endpoint}`)
  },
  parties: (pair, touched, id) => touchRanges(pair, touched, 'parties', id),
  prefixLists: (pair, touched) => {
    for (const { ref } of pair.after.firewalls) touched.elements.add(ref)
    for (const { ref } of pair.before.firewalls) touched.elements.add(ref)
  },
}

type Loose = Record<string, unknown>

/** Everything that stands in a subnet, and all of its hosts. */
function touchSubnet(pair: Pair, touched: Touched, id: string): void {
  for (const model of bothOf(pair)) {
    const index = model.index.subnets.get(id)
    if (index === undefined) continue
    for (const ref of elementsIn(model, index)) touched.elements.add(ref)
    for (const one of model.subnets[index]!.interfaces) touchHost(model, touched, one)
    for (const frontend of model.frontends)
      if (frontend.subnet === index) touchFrontend(model, touched, frontend.index)
    touched.addresses.push(...rangeSetOf(model.subnets[index]!.allRanges))
  }
}

function touchInterface(pair: Pair, touched: Touched, id: string): void {
  for (const model of bothOf(pair)) {
    const index = model.index.interfaces.get(id)
    if (index !== undefined) touchHost(model, touched, index)
  }
}

/** A host, and what it is besides: a forwarder, a side of a firewall, a frontend's target. */
function touchHost(model: Model, touched: Touched, index: number): void {
  const one = model.interfaces[index]!
  touched.hosts.add(one.id)
  for (const ref of elementsAt(model, index)) touched.elements.add(ref)
  const own = [...one.addresses, ...(one.publicAddress === null ? [] : [one.publicAddress])]
  touched.addresses.push(...rangeSetOf(own.map(hostPrefix)))
}

function touchNetwork(pair: Pair, touched: Touched, id: string): void {
  const [old, now] = bothOf(pair).map((model) => model.estate.networks.get(id) as Loose | undefined)
  const keys = ['behaviour', 'levels', 'implicitEgress', 'region', 'tags', 'state', 'ranges']
  if (old && now && keys.every((key) => canonical(old[key]) === canonical(now[key]))) return
  for (const model of bothOf(pair)) {
    const index = model.index.networks.get(id)
    if (index === undefined) continue
    touchDoors(model, touched, index)
    for (const subnet of model.networks[index]!.subnets)
      touchSubnet(pair, touched, model.subnets[subnet]!.id)
    const { gateways, nats, peerings } = model.attached
    for (const { ref } of gateways.get(index) ?? []) touched.elements.add(ref)
    for (const { ref } of nats.get(index) ?? []) touched.elements.add(ref)
    for (const { ref } of peerings.get(index) ?? []) touched.elements.add(ref)
  }
  allSites(pair, touched)
}

/** A door of a network: what comes in there, and answers to what went out of the network. */
export function touchGateway(model: Model, touched: Touched, index: number | undefined): void {
  if (index === undefined) return
  const gateway = model.gateways[index]!
  touched.elements.add(gateway.ref)
  if (gateway.site !== null) touched.sites.add(gateway.site)
  touchDoors(model, touched, gateway.network)
}

/** Public addresses of a network, and what translates there, are reached by its doors. */
function touchDoors(model: Model, touched: Touched, index: number): void {
  const network = model.networks[index]
  if (!network || touched.doors.has(network.id)) return
  touched.doors.add(network.id)
  for (const { ref } of model.attached.nats.get(index) ?? []) touched.elements.add(ref)
  for (const subnet of network.subnets)
    for (const ref of elementsIn(model, subnet)) touched.elements.add(ref)
  for (const [address, owner] of model.publicOwners)
    if (networkOf(model, owner) === index) touched.addresses.push({ from: address, to: address })
}

function networkOf(model: Model, { kind, index }: Named): number {
  if (kind === 'nat') return model.nats[index]!.network
  if (kind === 'frontend') return model.frontends[index]!.network
  return model.subnets[model.interfaces[index]!.subnet]?.network ?? -1
}

function touchFirewall(pair: Pair, touched: Touched, id: string): void {
  touched.elements.add(`firewalls/${id}`)
  for (const model of bothOf(pair)) {
    const index = model.index.firewalls.get(id)
    if (index === undefined) continue
    for (const side of model.firewalls[index]!.interfaces) touchHost(model, touched, side.interface)
    for (const subnet of inlineEndpointsIn(model, index)) touchSubnet(pair, touched, subnet)
  }
}

/** A frontend is a destination: who asks for it may fare otherwise. */
function touchFrontend(model: Model, touched: Touched, index: number): void {
  const { addresses, id } = model.frontends[index]!
  const open = model.estate.frontends.get(id)?.publicAddresses ?? []
  touched.addresses.push(
    ...rangeSetOf([
      ...addresses.map(hostPrefix),
      ...open.map((text) => hostPrefix(addressOf(text))),
    ]),
  )
}

function touchRanges(
  pair: Pair,
  touched: Touched,
  section: 'sites' | 'services' | 'parties',
  id: string,
): void {
  const written = bothOf(pair).map((model) =>
    model.index[section].has(id) ? (model.estate[section].get(id)?.ranges ?? []) : [],
  )
  if (canonical(written[0]) === canonical(written[1])) return
  touched.addresses.push(...rangeSetOf(written.flat().map(prefixOf)))
}

function allSites(pair: Pair, touched: Touched): void {
  for (const model of bothOf(pair))
    for (const id of model.estate.sites.keys()) touched.sites.add(id)
}

/** What is up in one state and not in the other, though it is written alike. */
function touchStates(pair: Pair, touched: Touched): void {
  const { before, after } = pair
  if (before.interfaces !== after.interfaces)
    for (const one of after.interfaces) {
      const old = before.index.interfaces.get(one.id)
      if (old !== undefined && before.interfaces[old]!.up !== one.up)
        touchHost(after, touched, one.index)
    }
  if (before.subnets !== after.subnets)
    for (const one of after.subnets) {
      const old = before.index.subnets.get(one.id)
      const was = old === undefined ? undefined : before.subnets[old]!
      if (was && (was.up !== one.up || was.region !== one.region || was.zone !== one.zone))
        touchSubnet(pair, touched, one.id)
    }
}

/** Addresses that belong to something else, inside and outside, and doors sites come in by. */
function touchOwners(pair: Pair, touched: Touched): void {
  const { before, after } = pair
  const differ = (a: ReadonlyMap<Address, Named>, b: ReadonlyMap<Address, Named>): void => {
    if (a === b) return
    const add = (address: Address): void =>
      void touched.addresses.push({ from: address, to: address })
    for (const [address, owner] of a) {
      const now = b.get(address)
      if (now !== owner && (now === undefined || nameOf(before, owner) !== nameOf(after, now)))
        add(address)
    }
    for (const address of b.keys()) if (!a.has(address)) add(address)
  }
  for (const network of after.networks) {
    const old = before.index.networks.get(network.id)
    if (old !== undefined) differ(before.networks[old]!.owners, network.owners)
  }
  differ(before.publicOwners, after.publicOwners)
  if (before.inventory !== after.inventory)
    for (const address of [...before.inventory, ...after.inventory])
      if (before.inventory.has(address) !== after.inventory.has(address))
        touched.addresses.push({ from: address, to: address })
  if (before.entrances !== after.entrances)
    for (const site of [...before.entrances.keys(), ...after.entrances.keys()])
      if (before.entrances.get(site) !== after.entrances.get(site)) touched.sites.add(site)
}

type Named = { readonly kind: string; readonly index: number }

function nameOf(model: Model, { kind, index }: Named): string {
  const lists = {
    interface: model.interfaces,
    firewall: model.interfaces,
    nat: model.nats,
    frontend: model.frontends,
    'one-to-one': model.networks,
  }
  return `${kind} ${lists[kind as keyof typeof lists][index]?.id}`
}

/** Hosts, edges and frontends at which a rule set or an estate rule that differs is asked. */
function touchRules(pair: Pair, touched: Touched): void {
  const sets = changedRuleSets(pair)
  const rules = changedEstateRules(pair)
  if (sets.size === 0 && rules.before.length + rules.after.length === 0) return
  const carries = (written: readonly string[] | string | undefined): boolean =>
    written !== undefined && [written].flat().some((id) => sets.has(id))
  for (const model of bothOf(pair)) {
    const own = model === pair.before ? rules.before : rules.after
    for (const { id, source } of model.subnets)
      if (carries(source.boundary) || carries(source.ruleSets)) touchSubnet(pair, touched, id)
    for (const { index, subnet, source } of model.interfaces) {
      const place = { subnet, interface: index }
      if (
        carries(source.ruleSets) ||
        carries(source.localRules) ||
        (subnet >= 0 && own.some((rule) => applies(model, rule, place)))
      )
        touchByRules(pair, touched, model, index)
    }
    for (const frontend of model.frontends) {
      const written = model.estate.frontends.get(frontend.id)
      if (carries(written?.ruleSets) || own.length > 0)
        touchFrontend(model, touched, frontend.index)
    }
    for (const firewall of model.firewalls)
      if (asksSets(firewall.source, sets)) touched.elements.add(firewall.ref)
  }
}

/** A host whose rules differ: where it is nothing but a host, only what they decide is reached. */
function touchByRules(pair: Pair, touched: Touched, model: Model, index: number): void {
  const { id, forwards } = model.interfaces[index]!
  if (touched.rules.has(id) || touched.hosts.has(id)) return
  const isPlain = !forwards && !model.firewallAt.has(index) && !model.endpointAt.has(index)
  const reach = isPlain && leadAlike(pair) ? ruleReach(pair, index, setsAtHost(model, index)) : null
  if (reach === null) touchHost(model, touched, index)
  else touched.rules.set(id, reach)
}

const asksSets = (source: object, sets: ReadonlySet<string>): boolean =>
  sets.size > 0 && 'policy' in source && canonical(source.policy).includes('"ruleSet"')

/** What is touched, as sets that are asked. */
export const touchedAddresses = ({ addresses }: Touched): RangeSet => rangeSet(addresses)
