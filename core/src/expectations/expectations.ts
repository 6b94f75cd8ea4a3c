import { familyOf, type Address, type Family } from '../address/address'
import { prefixOf } from '../address/prefix'
import { longestMatch } from '../address/prefix-table'
import {
  firstFrom,
  rangeSet,
  rangeSetOf,
  rangesContain,
  type Range,
  type RangeSet,
} from '../address/ranges'
import { parseAddress } from '../address/address'
import { eachFlow, type Flow, type FlowBranch } from '../flows/flow'
import { hopMemo, hopsOf, type HopMemo, type HopTable } from '../hops/hops'
import { rangeNameOf } from '../hops/kinds'
import type { Model, SubnetModel } from '../model/model'
import {
  hasPorts,
  ICMP,
  ICMPV6,
  packetJson,
  protocolNumber,
  TCP,
  UDP,
  type PacketJson,
} from '../packet/packet'
import type { PacketBox } from '../packet/packet-set'
import { placeOfProtocol } from '../packet/protocols'
import { portSpans } from '../rules/condition'
import { tracePacket, type Trace } from '../trace/trace'
import { expectationText } from './words'
import { chosenBy, everything, toPlaces, without, type Expectation, type Place } from './selection'

export type { Expectation } from './selection'

/** The result of an expectation. */
export interface ExpectationResult {
  readonly id: string
  readonly must: Expectation['must']
  /** What it says, of which packets. */
  readonly says: string
  readonly state: 'holds' | 'broken' | 'empty'
  readonly sentence: string
  /** For a broken one, the places between which it is broken, as `section/id`. */
  readonly from: string | null
  readonly to: string | null
  readonly packet: PacketJson | null
  /** The route or rule that lets the packet pass or stops it, in the words of the trace. */
  readonly because: string | null
  readonly trace: Trace | null
}

/** Proves every expectation over all packets, never by samples (design part 4.2). */
export function proveExpectations(
  model: Model,
  expectations: ReadonlyMap<string, Expectation>,
  memo: HopMemo = hopMemo(),
): ExpectationResult[] {
  return [...expectations]
    .filter(([, one]) => (one.state ?? 'up') !== 'deleted')
    .map(([id, one]) => proveExpectation(model, id, one, memo))
}

/** A packet that breaks an expectation, and the sentence that says how. */
interface Breach {
  readonly from: Place
  readonly to: Place | null
  readonly flow: Flow
  readonly what: string
}

/** Proves one expectation over all packets. Throws a RangeError past `MOST_WALKS`. */
export function proveExpectation(
  model: Model,
  id: string,
  expectation: Expectation,
  memo: HopMemo = hopMemo(),
): ExpectationResult {
  const { must } = expectation
  const named = {
    from: chosenBy(model, expectation.from, expectation.except),
    to: chosenBy(model, expectation.to, expectation.except),
  }
  const sources =
    must === 'only-from'
      ? toPlaces(model, without(everything(model), named.from))
      : toPlaces(model, named.from)
  const targets =
    expectation.to === undefined && must !== 'only-from'
      ? toPlaces(model, everything(model))
      : toPlaces(model, named.to)
  const base = {
    id,
    must,
    says: expectationText(expectation),
    from: null,
    to: null,
    packet: null,
    because: null,
    trace: null,
  }
  if (sources.length === 0 || targets.length === 0) {
    const side = sources.length === 0 && must !== 'only-from' ? 'from' : 'to'
    return {
      ...base,
      state: 'empty',
      sentence: `its "${side}" names nothing there is, so it says nothing`,
    }
  }
  const breach = findBreach(model, expectation, sources, targets, memo)
  if (breach === null) return { ...base, state: 'holds', sentence: HOLDS[must] }
  const trace = tracePacket(model, breach.from.end, breach.flow.packet)
  return {
    ...base,
    state: 'broken',
    from: breach.from.ref,
    to: breach.to?.ref ?? null,
    sentence: breach.what,
    packet: packetJson(breach.flow.packet),
    because: becauseOf(trace),
    trace,
  }
}

const HOLDS: Record<Expectation['must'], string> = {
  'never-reach': 'no such packet is delivered',
  reach: 'every such packet is delivered and answered',
  pass: 'every delivered packet goes through what was named, there and back',
  'leave-by': 'every packet that leaves does so by what was named',
  'appear-as': 'the far side sees only the addresses named',
  'only-from': 'nobody else is delivered',
}

/**
 * The route or rule a broken expectation turns on: the last that let the packet on, or the one that
 * stopped it.
 */
function becauseOf(trace: Trace): string | null {
  const lane = trace.cause?.direction === 'return' ? trace.return! : trace.forward
  const stations = trace.cause ? lane.stations.slice(0, trace.cause.station + 1) : lane.stations
  const telling =
    [...stations]
      .reverse()
      .find((one) => ['rules', 'lookup', 'firewall', 'inspect'].includes(one.kind)) ??
    stations.at(-1)
  return telling ? `${telling.at}: ${telling.decision}` : null
}

function findBreach(
  model: Model,
  expectation: Expectation,
  sources: readonly Place[],
  targets: readonly Place[],
  memo: HopMemo,
): Breach | null {
  const answers = expectation.must === 'reach' || expectation.must === 'pass'
  const routes = routesFrom(model, memo)
  const fits = judgeOf(expectation)
  for (const from of sources) {
    for (const to of targets) {
      if (from.ref === to.ref && from.end.in === 'subnet' && from.end.place.interface >= 0) continue
      let found: Breach | null = null
      for (const boxes of boxesBetween(model, expectation, from, to)) {
        // A packet that routes alone lose is lost whatever the rules are.
        if (expectation.must !== 'reach' && boxes.every((box) => routes.lost(from, box))) continue
        eachFlow(model, from.end, boxes, answers, (flow) => {
          const what = fits(flow, from, to)
          if (what !== null) found = { from, to, flow, what }
          return what !== null
        })
        if (found !== null) return found
      }
    }
  }
  return null
}

/** What of a flow breaks an expectation, in words; null where it does not. */
function judgeOf({
  must,
  by,
  as,
}: Expectation): (flow: Flow, from: Place, to: Place) => string | null {
  const named = new Set(by ?? [])
  const allowed = rangeSetOf((as ?? []).map(prefixOf))
  const passes = (way: readonly string[]): boolean => way.some((ref) => named.has(ref))
  const breaks = (branch: FlowBranch, flow: Flow, from: Place, to: Place): string | null => {
    const there = branch.delivered && isAt(branch, to)
    switch (must) {
      case 'reach':
        if (branch.verdict === 'works') return null
        return branch.delivered
          ? 'the answer is lost'
          : `a packet is lost: ${branch.cause?.code ?? 'unknown'}`
      case 'never-reach':
      case 'only-from':
        return there ? `a packet from ${from.ref} is delivered to ${to.ref}` : null
      case 'pass':
        if (!there) return null
        if (!passes(branch.way)) return 'a delivered packet goes round what was named'
        return branch.verdict === 'works' && branch.wayBack !== null && !passes(branch.wayBack)
          ? 'the answer goes round what was named'
          : null
      case 'leave-by':
        return there && branch.leavesBy !== null && !passes([...branch.way, branch.leavesBy])
          ? `a packet leaves by ${branch.leavesBy}`
          : null
      case 'appear-as': {
        if (!there) return null
        const seen = branch.seenAs.length > 0 ? branch.seenAs : [packetJson(flow.packet).src]
        const other = seen.find((text) => {
          const address = parseAddress(text)
          return address === null || !rangesContain(allowed, address)
        })
        return other === undefined
          ? null
          : other === 'unpredictable'
            ? 'the far side may see an address that nobody can foresee'
            : `the far side may see ${other}`
      }
    }
  }
  return (flow, from, to) => {
    for (const branch of flow.branches) {
      const what = breaks(branch, flow, from, to)
      if (what !== null) return what
    }
    return null
  }
}

/** Whether a branch ended at a place, not at another owner of the address it was sent to. */
function isAt({ deliveredAt, way }: FlowBranch, to: Place): boolean {
  if (deliveredAt === null) return false
  if (to.end.in === 'outside') return deliveredAt.in === 'outside'
  const { place } = to.end
  // A proxy ends the flow: what it opens behind is its own.
  if (place.frontend !== undefined) return way.includes(to.ref)
  return (
    deliveredAt.in === 'subnet' &&
    deliveredAt.place.subnet === place.subnet &&
    deliveredAt.place.interface === place.interface &&
    !way.some((ref) => ref.startsWith('frontends/'))
  )
}

const only = (value: Address): Range => ({ from: value, to: value })
const PORTS: Range = { from: 0, to: 65535 }

/** The ports that clients send from. */
const CLIENT_PORTS: Range = { from: 1024, to: 65535 }

/** All packets of the described kind between two places, by family. */
function boxesBetween(
  model: Model,
  expectation: Expectation,
  from: Place,
  to: Place,
): PacketBox[][] {
  const both = ([4, 6] as const)
    .map((family) => boxesOfFamily(model, expectation, from, to, family))
    .filter((boxes) => boxes.length > 0)
  // A place with both families is asked over IPv4, as in a question.
  return expectation.must === 'reach' ? both.slice(0, 1) : both
}

function boxesOfFamily(
  model: Model,
  expectation: Expectation,
  from: Place,
  to: Place,
  family: Family,
): PacketBox[] {
  const ofFamily = (ranges: RangeSet): Range[] =>
    ranges.filter((range) => familyOf(range.from) === family)
  const fromOutside = from.end.in === 'outside' && !from.end.ref.startsWith('sites/')
  const meant =
    expectation.must === 'reach'
      ? fromOutside && family === 4 && to.publicAddresses.length > 0
        ? to.publicAddresses
        : to.addresses
      : [...to.addresses, ...to.publicAddresses, ...translatedTo(model, to)]
  const destinations = ofFamily(rangeSet(meant))
  const headers = headersOf(expectation, family)
  return ofFamily(from.addresses).flatMap((src) =>
    destinations.flatMap((dst) => headers.map((header): PacketBox => ({ src, dst, ...header }))),
  )
}

/** Addresses of firewalls that translate them to a place. */
function translatedTo(model: Model, to: Place): Range[] {
  if (to.end.in !== 'subnet') return []
  return model.firewalls.flatMap(({ source, interfaces, up }) => {
    if (source.style !== 'routed' || !up) return []
    const leads = source.destinationTranslation?.some((rule) =>
      rangesContain(to.addresses, parseAddress(rule.forward.address)!),
    )
    if (!leads) return []
    return interfaces.flatMap(({ interface: index }) => {
      const { addresses, publicAddress } = model.interfaces[index]!
      return [...addresses, ...(publicAddress === null ? [] : [publicAddress])].map(only)
    })
  })
}

function headersOf(
  { must, protocol, ports }: Expectation,
  family: Family,
): Omit<PacketBox, 'src' | 'dst'>[] {
  const srcPort = must === 'reach' ? CLIENT_PORTS : PORTS
  const spans = (portSpans(ports) ?? [[0, 65535]]).map(([from, to]): Range => ({ from, to }))
  const all = (places: Range): Omit<PacketBox, 'src' | 'dst'>[] =>
    spans.map((dstPort) => ({ protocol: places, srcPort, dstPort }))
  const one = (number: number): Omit<PacketBox, 'src' | 'dst'>[] => {
    const place = only(placeOfProtocol(number))
    return hasPorts(number) ? all(place) : [{ protocol: place, srcPort: PORTS, dstPort: PORTS }]
  }
  if (protocol !== undefined && protocol !== 'any') return one(protocolNumber(protocol)!)
  // An expectation that names ports means a protocol that has ports.
  if (ports !== undefined)
    return must === 'reach'
      ? [...one(TCP), ...one(UDP)]
      : all({ from: 0, to: placeOfProtocol(ICMP) - 1 })
  if (must === 'reach') return [...one(TCP), ...one(UDP), ...one(family === 4 ? ICMP : ICMPV6)]
  return [{ protocol: { from: 0, to: 255 }, srcPort: PORTS, dstPort: PORTS }]
}

/**
 * Whether routes alone lose every packet of a box, known from the effective next hops of its
 * source.
 */
function routesFrom(
  model: Model,
  memo: HopMemo,
): { lost: (from: Place, box: PacketBox) => boolean } {
  const tables = new Map<number, HopTable[]>()
  const tablesOf = (subnet: SubnetModel): HopTable[] => {
    let known = tables.get(subnet.index)
    if (!known) tables.set(subnet.index, (known = hopsOf(model, subnet, memo)))
    return known
  }
  return {
    lost: ({ end }, box) => {
      if (end.in !== 'subnet' || end.place.frontend !== undefined) return false
      const subnet = model.subnets[end.place.subnet]
      if (
        !subnet ||
        longestMatch(model.networks[subnet.network]!.subnetSpace, box.src.from)[0] !== subnet.index
      )
        return false
      const { interface: index } = end.place
      const range = rangeNameOf(subnet, box.src.from)
      const table = tablesOf(subnet).find(({ kind }) =>
        index < 0
          ? kind.interfaces.length === 0
          : kind.interfaces.includes(index) && kind.range === range,
      )
      if (!table) return false
      const ranges = table[familyOf(box.dst.from)]
      for (
        let at = firstFrom(ranges, box.dst.from);
        at < ranges.length && ranges[at]!.from <= box.dst.to;
        at++
      )
        if (ranges[at]!.hop.cause === null) return false
      return ranges.length > 0
    },
  }
}
