import { kept, once, reader } from '../kept'
import type { Address } from '../address/address'
import { hostPrefix, prefixOf } from '../address/prefix'
import { rangeSet, rangeSetOf, rangesContain, spanAround, type Range, type RangeSet } from '../address/ranges'
import type { EstateRule, Peer, Rule, RuleSet } from '../format/estate'
import { splitRef } from '../format/ref'
import { derived, derivedAndCompared, sameItems, sameRanges } from '../model/derived'
import type { Model } from '../model/model'
import { sameList } from '../model/sections'
import { destinationPrefixes } from '../model/routes'
import { protocolNumber, type Packet } from '../packet/packet'
import type { Field } from '../packet/packet-set'
import { placeOfProtocol, PLACES_WITH_PORTS, PLACES_WITHOUT_PORTS } from '../packet/protocols'

export type Direction = 'in' | 'out'
export type PortSpan = readonly [low: number, high: number]

/** What a rule matches on, ready to be asked. Null means any. */
export interface Condition {
  readonly direction: Direction
  readonly protocol: number | null
  readonly ports: readonly PortSpan[] | null
  readonly sourcePorts: readonly PortSpan[] | null
  /** The far side, found when first asked: most rules are settled by protocol and port. Null is anybody. */
  readonly peers: () => RangeSet | null
  readonly local: RangeSet | null
}

export interface SetRule extends Condition {
  /** Its place in the set, as written. */
  readonly entry: number
  readonly order: number | null
  readonly allow: boolean
}

export interface SetModel {
  readonly ref: string
  readonly stateful: boolean
  readonly ordered: boolean
  /** In the order in which they are asked. */
  readonly rules: readonly SetRule[]
  readonly otherwise: { readonly in: boolean; readonly out: boolean }
}

export interface EstateRuleModel extends Condition {
  readonly ref: string
  readonly order: number
  readonly action: 'allow' | 'deny' | 'defer'
  readonly appliesTo: (place: Place) => boolean
}

/** A place rules are asked for: a subnet, and an interface in it unless the address is unoccupied. */
export interface Place {
  readonly subnet: number
  readonly interface: number
  /** The number of a frontend that stands there, if one does. */
  readonly frontend?: number
}

export const samePlace = (a: Place, b: Place): boolean => a.subnet === b.subnet && a.interface === b.interface && a.frontend === b.frontend

/** All rules of an estate, each set compiled when it is first asked. */
export interface RuleBook {
  readonly set: (index: number) => SetModel
  /** The same of a set as `set` says, without compiling it. */
  readonly isStateful: (index: number) => boolean
  readonly estateRules: () => readonly EstateRuleModel[]
  readonly members: (ruleSet: string) => RangeSet
}

/** The addresses of all interfaces that carry a rule set, in whatever network. */
export const memberRanges = (model: Model, ruleSet: string): RangeSet => ruleBook(model).members(ruleSet)

const books = new WeakMap<Model, RuleBook>()

export function ruleBook(model: Model): RuleBook {
  let book = books.get(model)
  if (!book) {
    book = makeBook(model)
    books.set(model, book)
  }
  return book
}

const carriers = new WeakMap<Model['interfaces'], ReadonlyMap<number, readonly Address[]>>()

/** The addresses of the interfaces that carry each rule set, found once for as long as no interface changes. */
const carriersOf = (model: Model): ReadonlyMap<number, readonly Address[]> =>
  kept(carriers, model.interfaces, () => {
    const made = new Map<number, Address[]>()
    for (const one of model.interfaces) {
      if (!model.index.interfaces.has(one.id)) continue
      for (const set of one.ruleSets) {
        const list = made.get(set)
        if (list) list.push(...one.addresses)
        else made.set(set, [...one.addresses])
      }
    }
    return made
  })

/** Sets as compiled, with what else they were made from: a model that differs in other things takes them over. */
const compiledSets = new WeakMap<RuleSet, { readonly set: SetModel; readonly madeFrom: readonly unknown[] }>()

const isStateful = (set: RuleSet): boolean => set.stateful ?? true

function makeBook(model: Model): RuleBook {
  const { estate } = model
  const always = (): readonly unknown[] => [model.interfaces, model.internetSpace, model.index.ruleSets, estate.prefixLists, estate.services]
  const asksTags = (set: RuleSet): boolean => set.rules?.some((rule) => rule.peers?.some((peer) => typeof peer === 'object' && 'tag' in peer)) ?? false
  const ids = (): readonly string[] => derivedAndCompared(model, 'ids of rule sets', () => [...estate.ruleSets.keys()], sameItems)
  const sets = new Map<number, SetModel>()

  const memo = (key: string, make: () => RangeSet): RangeSet => derivedAndCompared(model, `members of ${key}`, make, sameRanges)
  const addressesWhere = (test: (index: number) => boolean): RangeSet =>
    rangeSetOf(model.interfaces.filter((one) => model.index.interfaces.has(one.id) && test(one.index)).flatMap((one) => one.addresses.map(hostPrefix)))

  const membersOf = (ruleSet: string): RangeSet => {
    const set = model.index.ruleSets.get(ruleSet) ?? -1
    return memo(`set ${ruleSet}`, () => rangeSetOf((carriersOf(model).get(set) ?? []).map(hostPrefix)))
  }
  const peerRanges = (peer: Peer): RangeSet | null => {
    if (peer === 'any') return null
    if (peer === 'internet') return model.internetSpace
    if (typeof peer === 'string') return rangeSetOf([prefixOf(peer)])
    if ('prefixList' in peer || 'service' in peer) return rangeSetOf(destinationPrefixes(model.estate, peer))
    if ('ruleSet' in peer) return membersOf(peer.ruleSet)
    return memo(`tag ${peer.tag}`, () => addressesWhere((i) => hasTag(model, { subnet: model.interfaces[i]!.subnet, interface: i }, peer.tag)))
  }
  const peersOf = (peers: readonly Peer[] | undefined): RangeSet | null => {
    if (peers === undefined) return null
    const ranges: Range[] = []
    for (const peer of peers) {
      const set = peerRanges(peer)
      if (set === null) return null
      ranges.push(...set)
    }
    return rangeSet(ranges)
  }
  const condition = (rule: Rule | EstateRule): Condition => ({
    direction: rule.direction,
    protocol: rule.protocol === undefined || rule.protocol === 'any' ? null : protocolNumber(rule.protocol),
    ports: portSpans(rule.ports),
    sourcePorts: portSpans(rule.sourcePorts),
    peers: once(() => peersOf(rule.peers)),
    local: rule.local === undefined ? null : rangeSetOf(rule.local.map(prefixOf)),
  })

  return {
    members: membersOf,
    set: (index) => kept(sets, index, () => compiledSet(index)),
    isStateful: (index) => isStateful(estate.ruleSets.get(ids()[index]!)!),
    estateRules: () =>
      derived(model, 'rules over the estate', () =>
        model.estate.estateRules
          .filter((rule) => (rule.state ?? 'up') === 'up')
          .map((rule): EstateRuleModel => ({
            ...condition(rule),
            ref: `estateRules/${rule.order}`,
            order: rule.order,
            action: rule.action,
            appliesTo: (place) => applies(model, rule, place),
          }))
          .sort((a, b) => a.order - b.order),
      ),
  }

  function compiledSet(index: number): SetModel {
    const id = ids()[index]!
    const source = estate.ruleSets.get(id)!
    // One who follows what is read has sets of its own, for as long as nothing they were made from changes.
    const madeFrom = reader() !== null ? null : asksTags(source) ? [...always(), estate.subnets, estate.networks] : always()
    const before = madeFrom && compiledSets.get(source)
    if (before && before.set.ref === `ruleSets/${id}` && sameList(before.madeFrom, madeFrom)) return before.set
    const rules = (source.rules ?? []).map((rule, entry): SetRule => ({
      ...condition(rule),
      entry,
      order: rule.order ?? null,
      allow: rule.action !== 'deny',
    }))
    const ordered = rules.some((rule) => rule.order !== null)
    const made: SetModel = {
      ref: `ruleSets/${id}`,
      stateful: isStateful(source),
      ordered,
      rules: ordered ? [...rules].sort((a, b) => a.order! - b.order!) : rules,
      otherwise: { in: source.otherwise?.in === 'allow', out: source.otherwise?.out === 'allow' },
    }
    if (madeFrom) compiledSets.set(source, { set: made, madeFrom })
    return made
  }
}

export function portSpans(ports: readonly (number | string)[] | undefined): PortSpan[] | null {
  if (ports === undefined) return null
  return ports.map((port) => {
    if (typeof port === 'number') return [port, port]
    const [low, high] = port.split('-').map(Number)
    return [low!, high!]
  })
}

/** What of a rule does not fit a packet; null where it matches. */
export type Mismatch = 'protocol' | 'port' | 'source port' | 'peer' | 'near side'

/** Told, for a field that was asked, the span around the packet's value that has the same answer. */
export type NoteField = (field: Field, span: Range) => void

/** Asks a rule of its own direction: the peer is the far address of the packet, the near one is on the rule's side. */
export function mismatch(condition: Condition, packet: Packet, note?: NoteField): Mismatch | null {
  if (!protocolMatches(condition.protocol, packet, note)) return 'protocol'
  if (!portMatches(condition.ports, packet, 'dstPort', note)) return 'port'
  if (!portMatches(condition.sourcePorts, packet, 'srcPort', note)) return 'source port'
  const [near, peer] = condition.direction === 'out' ? (['src', 'dst'] as const) : (['dst', 'src'] as const)
  if (!addressMatches(condition.peers(), packet, peer, note)) return 'peer'
  return addressMatches(condition.local, packet, near, note) ? null : 'near side'
}

/** Whether a protocol, or any (null), is the packet's. */
export function protocolMatches(protocol: number | null, packet: Packet, note?: NoteField): boolean {
  if (protocol === null) return true
  if (note) {
    const [asked, own] = [placeOfProtocol(protocol), placeOfProtocol(packet.protocol)]
    note('protocol', asked === own ? { from: own, to: own } : own < asked ? { from: 0, to: asked - 1 } : { from: asked + 1, to: 255 })
  }
  return protocol === packet.protocol
}

/** Whether a port of the packet is in one of some spans; a packet without ports fits none. */
export function portMatches(spans: readonly PortSpan[] | null, packet: Packet, field: 'srcPort' | 'dstPort', note?: NoteField): boolean {
  if (spans === null) return true
  const port = packet[field]
  note?.('protocol', port === null ? PLACES_WITHOUT_PORTS : PLACES_WITH_PORTS)
  if (port === null) return false
  for (const [from, to] of spans) {
    const holds = port >= from && port <= to
    note?.(field, holds ? { from, to } : port < from ? { from: 0, to: from - 1 } : { from: to + 1, to: 65535 })
    if (holds) return true
  }
  return false
}

/** Whether an address of the packet is in a set, or in any (null). */
export function addressMatches(set: RangeSet | null, packet: Packet, field: 'src' | 'dst', note?: NoteField): boolean {
  if (set === null) return true
  note?.(field, spanAround(set, packet[field]))
  return rangesContain(set, packet[field])
}

/** A tag condition matches an object's own tags and those of its subnet and network. */
export function hasTag(model: Model, place: Place, condition: string): boolean {
  const at = condition.indexOf('=')
  const [key, value] = [condition.slice(0, at), condition.slice(at + 1)]
  return tagsOf(model, place).some((tags) => tags?.[key] === value)
}

export const hasTagKey = (model: Model, place: Place, key: string): boolean =>
  tagsOf(model, place).some((tags) => tags !== undefined && Object.hasOwn(tags, key))

function tagsOf(model: Model, place: Place): (Record<string, string> | undefined)[] {
  const subnet = model.subnets[place.subnet]
  const network = subnet && model.networks[subnet.network]
  return [
    place.interface >= 0 ? model.interfaces[place.interface]!.source.tags : undefined,
    subnet && model.estate.subnets.get(subnet.id)?.tags,
    network && model.estate.networks.get(network.id)?.tags,
  ]
}

function applies(model: Model, rule: EstateRule, place: Place): boolean {
  const to = rule.appliesTo ?? 'all'
  if (to === 'all') return true
  if (Array.isArray(to)) return to.some((ref) => refCovers(model, ref, place))
  if ('tag' in to) return hasTag(model, place, to.tag)
  return model.subnets[place.subnet]?.region === to.region
}

function refCovers(model: Model, ref: string, place: Place): boolean {
  const [section, id] = splitRef(ref)
  const subnet = model.subnets[place.subnet]
  switch (section) {
    case 'networks':
      return subnet !== undefined && model.networks[subnet.network]?.id === id
    case 'subnets':
      return subnet?.id === id
    case 'interfaces':
      return place.interface >= 0 && model.interfaces[place.interface]!.id === id
    case 'regions':
      return subnet?.region === id
    case 'groups':
      return groupCovers(model, id, place)
    default:
      return false
  }
}

/** Whether a group of a section has an object in it: by name, or by its condition. */
export function groupHas(model: Model, group: string, section: string, id: string): boolean {
  const index = model.index[section as 'subnets']?.get(id)
  if (index === undefined) return false
  switch (section) {
    case 'networks':
      return model.networks[index]!.subnets.some((subnet) => groupCovers(model, group, { subnet, interface: -1 }))
    case 'subnets':
      return groupCovers(model, group, { subnet: index, interface: -1 })
    case 'interfaces':
      return groupCovers(model, group, { subnet: model.interfaces[index]!.subnet, interface: index })
    default: {
      const { members, except, where } = model.estate.groups.get(group)!
      if (except?.includes(id)) return false
      return (
        (members?.includes(id) ?? false) || (where?.name !== undefined && where.tag === undefined && where.region === undefined && wildcard(where.name, id))
      )
    }
  }
}

/** A group's members are those it lists and those its condition finds, without the excepted ones. */
function groupCovers(model: Model, id: string, place: Place): boolean {
  const group = model.estate.groups.get(id)
  const subnet = model.subnets[place.subnet]
  if (!group || !subnet || group.state === 'deleted') return false
  const network = model.networks[subnet.network]
  const own =
    group.section === 'networks'
      ? network?.id
      : group.section === 'subnets'
        ? subnet.id
        : group.section === 'interfaces' && place.interface >= 0
          ? model.interfaces[place.interface]!.id
          : undefined
  if (own === undefined || group.except?.includes(own)) return false
  if (group.members?.includes(own)) return true
  const { where } = group
  if (!where) return false
  const place2 = group.section === 'interfaces' ? place : { ...place, interface: -1 }
  return (
    (where.tag === undefined || (group.section === 'networks' ? networkHasTag(model, subnet.network, where.tag) : hasTag(model, place2, where.tag))) &&
    (where.region === undefined || (group.section === 'networks' ? network?.region : subnet.region) === where.region) &&
    (where.name === undefined || wildcard(where.name, own))
  )
}

function networkHasTag(model: Model, network: number, condition: string): boolean {
  const at = condition.indexOf('=')
  const id = model.networks[network]?.id ?? ''
  return model.estate.networks.get(id)?.tags?.[condition.slice(0, at)] === condition.slice(at + 1)
}

/** `*` stands for any run of characters; everything else for itself. */
export function wildcard(pattern: string, text: string): boolean {
  const parts = pattern.split('*')
  if (parts.length === 1) return pattern === text
  if (!text.startsWith(parts[0]!)) return false
  let at = parts[0]!.length
  for (const part of parts.slice(1, -1)) {
    const found = text.indexOf(part, at)
    if (found < 0) return false
    at = found + part.length
  }
  const tail = parts.at(-1)!
  return text.length - at >= tail.length && text.endsWith(tail)
}
