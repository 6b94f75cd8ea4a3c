import { formatAddress, type Family } from '../address/address'
import { wholeSpace } from '../address/prefix-table'
import { firstPart, type Range } from '../address/ranges'
import { kindOf } from '../exits/exits'
import { eachFlow } from '../flows/flow'
import type { Wanted } from '../hops/behind'
import type { HopTable } from '../hops/hops'
import { meetHops } from '../hops/meet'
import type { Outcome } from '../hops/onward'
import { kept } from '../kept'
import { derived, derivedAndCompared, sameItems } from '../model/derived'
import { groupBy } from '../model/sections'
import type { Model, SubnetModel } from '../model/model'
import { packetJson, protocolName, type PacketJson } from '../packet/packet'
import { lowestInternetAddress } from '../walk/public-address'
import { chosenBy } from '../expectations/selection'
import { finding, unique, type Finding, type Stated } from './finding'
import { closeIpv6, leaveByNat, useEndpoint } from './mends'
import {
  endOf,
  FAMILIES,
  firewallsOf,
  fromText,
  hostIn,
  upTo,
  internetText,
  listText,
  nameOf,
  passes,
  rangeTexts,
  checkSubnets,
  gatewayOf,
  subnetSpaceRanges,
  rangesOf,
  type Survey,
} from './survey'

/** Everything that is said of a subnet’s ways out from routes alone. */
export const checkWays = checkSubnets((survey, subnet) => {
  if (!subnet.up) return []
  const found: Finding[] = []
  const add: Add = (stated) => found.push(finding(stated))
  for (const table of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      leakDirect(survey, subnet, table, family, add)
      lostWays(survey, subnet, table, family, add)
      noPublicAddress(survey, subnet, table, family, add)
    }
    leakIpv6(survey, subnet, table, add)
    leakService(survey, subnet, table, add)
  }
  noWayOut(survey, subnet, add)
  return unique(found)
})

type Add = (stated: Stated) => unknown

/** Whether packets leave to the internet as they are, or one to one: by a door that lets others in the same way. */
export function isDirect(model: Model, outcome: Outcome): boolean {
  if (kindOf(outcome) !== 'direct' || outcome.reaches !== 'internet') return false
  return gatewayOf(model, outcome.leavesBy)?.kind !== 'outbound-v6'
}

function leakDirect(survey: Survey, subnet: SubnetModel, table: HopTable, family: Family, add: Add): void {
  const { model } = survey
  if ((subnet.role !== 'private' && subnet.role !== 'isolated') || table.kind.interfaces.length === 0) return
  const parts = survey
    .toInternet(subnet, table, family)
    .filter(({ outcome }) => isDirect(model, outcome) || (subnet.role === 'isolated' && outcome.cause === null && outcome.reaches === 'internet'))
  if (parts.length === 0) return
  const packet = someDelivered(model, table, family)
  if (packet === null) return
  const [first] = parts
  const door = first!.outcome.leavesBy
  const hosts = table.kind.interfaces.map((index) => model.interfaces[index]!.ref)
  add({
    code: 'leak-direct',
    severity: 'high',
    anchor: subnet.ref,
    objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), ...hosts, door?.includes('/') ? door : null],
    sentence: `${subnet.id} is declared ${subnet.role}, but ${listText(hosts.map(nameOf))} reach${hosts.length === 1 ? 'es' : ''} the internet directly${door ? ` by ${doorName(door)}` : ''}${family === 6 ? ' over IPv6' : ''}.`,
    part: `${family}`,
    ranges: rangeTexts(
      parts.flatMap((part) => part.ranges),
      12,
    ),
    packet,
    question: { from: fromText(model, subnet, table), to: internetText(model, family) },
    mend: family === 6 ? closeIpv6(model, subnet) : subnet.role === 'private' ? leaveByNat(model, subnet) : null,
  })
}

const doorName = (ref: string): string => (ref === 'internet' ? 'the built-in door' : nameOf(ref))

/** Any packet of a kind of host that the internet gets, rules and all. */
function someDelivered(model: Model, table: HopTable, family: Family): PacketJson | null {
  const src = table.kind.sources[family]
  if (src === null) return null
  let found: PacketJson | null = null
  const ports = { from: 0, to: 65535 }
  const boxes = model.internetSpace
    .filter((range) => (typeof range.from === 'number') === (family === 4))
    .map((dst) => ({ src: { from: src, to: src }, dst, protocol: { from: 0, to: 255 }, srcPort: ports, dstPort: ports }))
  eachFlow(model, endOf(table), boxes, false, (flow) => {
    if (flow.branches.some((one) => one.delivered && one.deliveredAt?.in === 'outside')) found = packetJson(flow.packet)
    return found !== null
  })
  return found
}

const LOST_CODES: ReadonlySet<string> = new Set(['looped', 'peering-not-transitive', 'forwarded-refused', 'nat-other-region', 'nat-does-not-serve'])
const LOST_BY_ROUTES: Wanted = { name: 'lost by routes', has: ({ cause }) => cause !== null && LOST_CODES.has(cause.code) }

/** Ways of all the destination space that are lost for a cause of the ways themselves. */
function lostWays(survey: Survey, subnet: SubnetModel, table: HopTable, family: Family, add: Add): void {
  const { model, memo } = survey
  const whole = wholeRange(family)
  for (const part of meetHops(model, subnet, table, family, whole, memo, { wanted: LOST_BY_ROUTES })) {
    const cause = part.outcome.cause
    if (cause === null) continue
    const { to, texts, isInside } = toldOf(survey, part.ranges, family)
    const shown = { ranges: upTo(texts, 12), question: { from: fromText(model, subnet, table), to } }
    switch (cause.code) {
      case 'looped':
        add({
          code: 'hole-loop',
          severity: isInside ? 'high' : 'medium',
          anchor: subnet.ref,
          objects: [cause.object, subnet.ref, ...new Set(part.outcome.ways.flat())].filter((ref) => ref.includes('/')),
          sentence: `Packets from ${subnet.id} to ${listText(upTo(texts, 3))} go round in a ring through ${nameOf(cause.object)} until they are dropped.`,
          ...shown,
        })
        break
      case 'peering-not-transitive':
        add({
          code: 'hole-not-transitive',
          severity: 'high',
          anchor: cause.object,
          objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), cause.object],
          sentence: `Packets to ${listText(upTo(texts, 3))} are sent over ${nameOf(cause.object)}, which carries only what is for its two networks.`,
          part: upTo(texts, 4).join(),
          ...shown,
        })
        break
      case 'forwarded-refused':
        add({
          code: 'hole-forwarded-refused',
          severity: 'high',
          anchor: cause.object,
          objects: [cause.object, subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : [])],
          sentence: `${nameOf(cause.object)} does not take forwarded packets, so those from ${model.networks[subnet.network]!.id} that come by another network are lost there.`,
          ...shown,
        })
        break
      case 'nat-other-region':
      case 'nat-does-not-serve':
        add({
          code: 'hole-nat-out-of-reach',
          severity: 'high',
          anchor: cause.object,
          objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), cause.object],
          sentence:
            cause.code === 'nat-other-region'
              ? `${nameOf(cause.object)} serves another region than that of ${subnet.id}, whose routes lead to it.`
              : `${nameOf(cause.object)} does not serve ${subnet.id}, whose routes lead to it.`,
          ...shown,
        })
        break
      default:
    }
  }
}

interface Told {
  /** An address there that can be asked for, as a question names it. */
  readonly to: string
  readonly texts: readonly string[]
  /** Whether subnets have addresses there. */
  readonly isInside: boolean
}

const told = new WeakMap<readonly Range[], Told>()

/** What is said of destinations, the same for all who share their ways. */
const toldOf = (survey: Survey, ranges: readonly Range[], family: Family): Told =>
  kept(told, ranges, () => {
    const { model } = survey
    const lowest = lowestInternetAddress(model, family)
    const toInternet = ranges.some(({ from, to }) => from <= lowest && lowest <= to)
    return {
      to: toInternet ? internetText(model, family) : formatAddress(hostIn(survey, ranges)),
      texts: rangeTexts(ranges, 12),
      isInside: ranges.some((range) => firstPart(subnetSpaceRanges(model), range) !== null),
    }
  })

const wholes = { 4: [wholeSpace(4)], 6: [wholeSpace(6)] } as const
const wholeRange = (family: Family) => wholes[family]

function noPublicAddress(survey: Survey, subnet: SubnetModel, table: HopTable, family: Family, add: Add): void {
  const { model } = survey
  if (table.kind.interfaces.length === 0) return
  const lost = survey.toInternet(subnet, table, family).filter(({ outcome }) => outcome.cause?.code === 'no-public-address')
  if (lost.length === 0) return
  const hosts = table.kind.interfaces.map((index) => model.interfaces[index]!.ref)
  add({
    code: 'hole-no-public-address',
    severity: 'medium',
    anchor: subnet.ref,
    objects: [subnet.ref, ...hosts, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : [])],
    sentence: `${subnet.id} has a direct way to the internet, but ${listText(hosts.map(nameOf))} ${hosts.length === 1 ? 'has' : 'have'} no public address.`,
    ranges: rangeTexts(
      lost.flatMap((part) => part.ranges),
      12,
    ),
    question: { from: fromText(model, subnet, table), to: internetText(model, family) },
  })
}

function leakIpv6(survey: Survey, subnet: SubnetModel, table: HopTable, add: Add): void {
  const { model } = survey
  const guarded = survey.toInternet(subnet, table, 4).filter(({ outcome }) => outcome.cause === null && passes(outcome.ways, 'firewalls', 'nats'))
  if (guarded.length === 0) return
  const firewalls = new Set(guarded.flatMap(({ outcome }) => firewallsOf(outcome.ways)))
  const round = survey.toInternet(subnet, table, 6).filter(({ outcome }) => {
    if (outcome.cause !== null || outcome.reaches !== 'internet') return false
    if (firewalls.size > 0) return !outcome.ways.every((way) => way.some((ref) => firewalls.has(ref)))
    return gatewayOf(model, outcome.leavesBy)?.kind !== 'outbound-v6' && !passes(outcome.ways, 'firewalls', 'nats')
  })
  if (round.length === 0) return
  const door = round[0]!.outcome.leavesBy ?? 'another way'
  const guard = guarded[0]!.outcome.ways[0]!.find((ref) => /^(firewalls|nats)\//.test(ref))!
  add({
    code: 'leak-ipv6',
    severity: 'high',
    anchor: subnet.ref,
    objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), guard, door.includes('/') ? door : null],
    sentence: `IPv4 from ${subnet.id} passes ${nameOf(guard)}, but IPv6 leaves by ${doorName(door)} without it.`,
    ranges: rangeTexts(
      round.flatMap((part) => part.ranges),
      12,
    ),
    question: { from: fromText(model, subnet, table), to: internetText(model, 6) },
    mend: closeIpv6(model, subnet),
  })
}

/** Provider services that are reached the long way, though a private one is there or could be. */
function leakService(survey: Survey, subnet: SubnetModel, table: HopTable, add: Add): void {
  const { model, memo } = survey
  const network = model.networks[subnet.network]!
  for (const [id, service] of model.estate.services) {
    if (!model.index.services.has(id) || (service.ranges ?? []).length === 0) continue
    if (service.region !== undefined && network.region !== null && service.region !== network.region) continue
    const ranges = rangesOf(model, 'services', id)
    const long = FAMILIES.flatMap((family) => meetHops(model, subnet, table, family, ranges, memo)).filter(
      ({ outcome }) => outcome.cause === null && outcome.reaches === 'internet',
    )
    if (long.length === 0) continue
    const endpoints = endpointsIn(model, network.id, id)
    const by = long[0]!.outcome.ways[0]!.find((ref) => ref.startsWith('nats/')) ?? long[0]!.outcome.leavesBy ?? 'internet'
    const there = endpoints.map((endpoint) => `endpoints/${endpoint}`)
    const from = fromText(model, subnet, table)
    add({
      code: 'leak-service-by-internet',
      severity: there.length > 0 ? 'low' : 'note',
      anchor: subnet.ref,
      objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), ...there, `services/${id}`, by.includes('/') ? by : null],
      sentence: `${subnet.id} reaches ${id} ${by.startsWith('nats/') ? `through ${nameOf(by)}` : 'over the internet'}, although ${there.length > 0 ? `${listText(there.map(nameOf))} could take it there privately` : 'an endpoint could take it there privately'}.`,
      part: id,
      ranges: rangeTexts(
        long.flatMap((part) => part.ranges),
        12,
      ),
      question: { from, to: formatAddress(long[0]!.ranges[0]!.from) },
      mend: useEndpoint(model, subnet, id, endpoints),
      facts: natCost(model, by),
    })
  }
}

/** The endpoints of a network that are up and lead to a service. */
const endpointsIn = (model: Model, network: string, service: string): readonly string[] =>
  derivedAndCompared(
    model,
    `endpoints of ${service} in ${network}`,
    () => {
      const byPlace = derived(model, 'endpoints by place', () =>
        groupBy([...model.estate.endpoints], ([, { network, service, state }]) => ((state ?? 'up') === 'up' ? `${network} ${service}` : '')),
      )
      return (byPlace.get(`${network} ${service}`) ?? []).map(([id]) => id)
    },
    sameItems,
  )

function natCost({ estate: { prices } }: Model, by: string): string[] {
  if (!by.startsWith('nats/') || prices?.natGigabyte === undefined) return []
  return [`every gigabyte costs ${prices.natGigabyte}${prices.currency ? ` ${prices.currency}` : ''} at the translator`]
}

/** Hosts whose rules allow the internet, and no way to it. */
function noWayOut(survey: Survey, subnet: SubnetModel, add: Add): void {
  const { model } = survey
  if (subnet.role === 'isolated' || separations(model).some((id) => exempts(model, id, subnet))) return
  for (const table of survey.tablesOf(subnet)) {
    if (table.kind.interfaces.length === 0) continue
    const family: Family = table.kind.sources[4] === null ? 6 : 4
    const parts = FAMILIES.flatMap((f) => survey.toInternet(subnet, table, f))
    if (parts.length === 0 || parts.some(({ outcome }) => outcome.cause === null || ADDRESS_CAUSES.has(outcome.cause.code))) continue
    const hosts = table.kind.interfaces.filter((index) => !model.firewallAt.has(index) && !model.interfaces[index]!.forwards)
    const [open, packet] = firstOf(hosts, (index) => survey.letOutToInternet(index, family)) ?? []
    if (open === undefined || !packet) continue
    const cause = parts[0]!.outcome.cause!
    add({
      code: 'hole-no-way-out',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        model.interfaces[open]!.ref,
        cause.object.includes('/') ? cause.object : null,
      ],
      sentence: `The rules of ${model.interfaces[open]!.id} allow it the internet, but ${subnet.id} has no way there.`,
      ranges: rangeTexts(
        parts.flatMap((part) => part.ranges),
        4,
      ),
      question: {
        from: `interface:${model.interfaces[open]!.id}`,
        to: packet.dst === lowestInternetAddress(model, family) ? internetText(model, family) : formatAddress(packet.dst),
        protocol: protocolName(packet.protocol),
        port: packet.dstPort,
      },
    })
  }
}

/** The first of some of which something is found, with that. */
function firstOf<T, F>(some: readonly T[], find: (one: T) => F | null): readonly [T, F] | null {
  for (const one of some) {
    const found = find(one)
    if (found !== null) return [one, found]
  }
  return null
}

/** A host without an address, or a ring, has a finding of its own. */
const ADDRESS_CAUSES: ReadonlySet<string> = new Set(['no-public-address', 'looped'])

/** The expectations that something is never reached. */
export const separations = (model: Model): readonly string[] =>
  derivedAndCompared(
    model,
    'expectations of separation',
    () => [...model.estate.expectations].flatMap(([id, { must, state }]) => (must === 'never-reach' && state !== 'deleted' ? [id] : [])),
    sameItems,
  )

/** Whether an expectation keeps this subnet from the internet. */
function exempts(model: Model, id: string, subnet: SubnetModel): boolean {
  const expectation = model.estate.expectations.get(id)
  const to = JSON.stringify(expectation?.to ?? '')
  if (!to.includes('internet')) return false
  return exemptSubnets(model, id).has(subnet.index)
}

const exemptSubnets = (model: Model, id: string): ReadonlySet<number> =>
  derivedAndCompared(
    model,
    `subnets that ${id} speaks of`,
    () => {
      const { from, except } = model.estate.expectations.get(id)!
      const chosen = chosenBy(model, from, except)
      return new Set([...[...chosen.interfaces].map((index) => model.interfaces[index]!.subnet), ...chosen.unoccupied.keys()])
    },
    sameItems,
  )
