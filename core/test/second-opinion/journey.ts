import type { Estate } from '../../src/format/estate'
import { bitsOf, isPublic, isV4, next, type Bits } from './bits'
import { askAt, askEdgeOf, sameSpot, type Packet, type Spot } from './rules'
import { isInternet } from './world'

/** A packet did not get through: thrown where it was lost. */
export class Lost {
  constructor(
    readonly code: string,
    readonly objects: readonly string[],
    readonly inner: { readonly code: string; readonly object: string } | null = null,
  ) {}
}

export type Place =
  | { readonly inside: Spot; readonly ref: string }
  | { readonly outside: string; readonly behind?: { by: string; network: string } }

/** A packet got through: thrown where it arrived. */
export class Arrived {
  constructor(readonly where: Place) {}
}

export interface Translated {
  readonly by: string
  readonly end: 'src' | 'dst'
  readonly before: Bits
  readonly after: Bits
  readonly portBefore?: number | null
  readonly iface?: string
}

/** One flow, as the answer needs to know it. */
export interface Flow {
  readonly asker: Place
  readonly askerAddress: Bits
  /** What the asker sent to: its answer must come from there. */
  readonly asked: { readonly address: Bits; readonly port: number | null }
  readonly answerer: Place
  /** The packet as it was delivered. */
  readonly packet: Packet
  readonly translated: readonly Translated[]
  readonly passed: readonly Spot[]
  readonly finals: readonly Spot[]
  readonly firewalls: readonly Seen[]
  readonly questions: readonly Question[]
}

/**
 * What a firewall that keeps state saw: itself (with the endpoint, if it has endpoints) and the
 * packet as it left.
 */
export interface Seen {
  readonly ref: string
  readonly endpoint: string
  readonly packet: Packet
}

/**
 * A question that was put to rules on the way, so that an answer by the same way can be put to them
 * in turn.
 */
export type Question = { readonly direction: 'in' | 'out'; readonly packet: Packet } & (
  | { readonly spot: Spot; readonly crosses: boolean }
  | { readonly edge: string }
  | { readonly wall: string; readonly sides: { readonly from: string; readonly to: string } | null }
)

/**
 * A packet under way, changed in place as it goes. Where routes of equal cost part, `choose` says
 * which one this journey takes; another journey from the start takes the next.
 */
export interface Journey {
  readonly estate: Estate
  readonly choose: <T>(options: readonly T[]) => T
  packet: Packet
  /** The packet as the flow under way began. */
  began: Packet
  readonly answering: Flow | null
  undo: Translated[]
  translated: Translated[]
  passed: Spot[]
  finals: Spot[]
  firewalls: Seen[]
  questions: Question[]
  flows: Flow[]
  way: string[]
  leavesBy: string | null
  seenAs: string[] | null
  nat: string | null
  readonly been: Map<string, number>
}

export const unpredictable = 'unpredictable'

/**
 * Loses the packet; a NAT that was still looking for a way out takes the blame for everything but
 * denials.
 */
export function lose(j: Journey, code: string, ...objects: string[]): never {
  const denials = [
    'denied-estate',
    'denied-local',
    'denied-interface',
    'denied-subnet',
    'denied-boundary',
    'denied-policy',
    'no-state',
    'nat-outbound-only',
    'gateway-outbound-only',
  ]
  if (j.nat !== null && !denials.includes(code))
    throw new Lost('nat-without-way-out', [`nats/${j.nat}`], { code, object: objects[0]! })
  throw new Lost(code, objects)
}

/** The same packet a second time at the same place: it would go round for ever. */
export function enter(j: Journey, place: string): void {
  const key = [
    place,
    j.packet.src,
    j.packet.dst,
    j.packet.sport,
    j.packet.dport,
    j.nat,
    j.undo.length,
  ].join(' ')
  const before = j.been.get(key)
  if (before !== undefined) lose(j, 'looped', ...j.way.slice(before))
  j.been.set(key, j.way.length)
}

/** Rules at a host or an appliance's interface. */
export function ask(j: Journey, spot: Spot, direction: 'in' | 'out', crosses: boolean): void {
  const known = j.answering !== null && j.answering.passed.some((one) => sameSpot(one, spot))
  const finalBefore = j.answering !== null && j.answering.finals.some((one) => sameSpot(one, spot))
  const asked = askAt(j.estate, spot, direction, j.packet, { crosses, known, finalBefore })
  j.questions.push({ direction, packet: j.packet, spot, crosses })
  if (asked.denied) lose(j, asked.denied.code, asked.denied.object)
  j.passed.push(spot)
  if (asked.final) j.finals.push(spot)
}

export function askEdge(j: Journey, subnet: string, direction: 'in' | 'out'): void {
  const asked = askEdgeOf(j.estate, subnet, direction, j.packet, j.answering !== null)
  j.questions.push({ direction, packet: j.packet, edge: subnet })
  if (asked.denied) lose(j, asked.denied.code, asked.denied.object)
}

export function translate(
  j: Journey,
  by: string,
  end: 'src' | 'dst',
  after: Bits,
  more: { port?: number | null; iface?: string } = {},
): void {
  const before = j.packet[end]
  j.translated.push({
    by,
    end,
    before,
    after,
    ...(more.port === undefined ? {} : { portBefore: j.packet.dport }),
    ...(more.iface ? { iface: more.iface } : {}),
  })
  j.packet = { ...j.packet, [end]: after, ...(more.port === undefined ? {} : { dport: more.port }) }
}

/** Undoes the latest translation that is left, in the answer. */
export function undoLatest(j: Journey): void {
  const latest = j.undo.shift()!
  if (latest.end === 'src') j.packet = { ...j.packet, dst: latest.before }
  else
    j.packet = {
      ...j.packet,
      src: latest.before,
      ...(latest.portBefore === undefined ? {} : { sport: latest.portBefore }),
    }
}

/** The answer is with its asker, who knows it only by the address and the port that were asked. */
export function comesHome(j: Journey, ...named: string[]): never {
  const { asked, asker } = j.answering!
  if (j.packet.src !== asked.address || j.packet.sport !== asked.port)
    lose(j, 'answer-from-other-address', ...named)
  throw new Arrived(asker)
}

/** The packet that answers one. */
export const turned = ({ src, dst, protocol, sport, dport }: Packet): Packet => ({
  src: dst,
  dst: src,
  protocol,
  sport: dport,
  dport: sport,
})

/** What the next undoing would be, if it is of this kind and by this element. */
export function mayUndo(j: Journey, by: string, end: 'src' | 'dst'): boolean {
  return (
    j.undo[0]?.by === by &&
    j.undo[0].end === end &&
    j.undo[0].after === (end === 'src' ? j.packet.dst : j.packet.src)
  )
}

export function leaves(j: Journey, by: string): void {
  j.way.push(by)
  j.leavesBy = by
  j.nat = null
}

/** The lowest public address that nothing of the estate has. */
export function nobodysAddress(estate: Estate, family: 4 | 6): Bits {
  const taken: string[] = [
    ...estate.sites.values(),
    ...estate.services.values(),
    ...estate.parties.values(),
  ].flatMap((object) => object.ranges ?? [])
  const single = new Set(
    [...allPublicAddresses(estate), ...estate.publicAddresses.keys()].map(bitsOf),
  )
  let at = bitsOf(family === 4 ? '1.0.0.0' : '2000::')
  while (
    !isPublic(at) ||
    !isInternet(estate, at) ||
    single.has(at) ||
    taken.some((prefix) => inRange(prefix, at))
  )
    at = next(at)
  return at
}

const inRange = (prefix: string, address: Bits): boolean => {
  const [base = '', length = ''] = prefix.split('/')
  return address.startsWith(bitsOf(base).slice(0, 1 + Number(length)))
}

function allPublicAddresses(estate: Estate): string[] {
  return [
    ...[...estate.interfaces.values()].flatMap((one) => one.publicAddress ?? []),
    ...[...estate.frontends.values()].flatMap((one) => one.publicAddresses ?? []),
    ...[...estate.nats.values()].flatMap((one) => [
      ...(one.addresses ?? []),
      ...(one.rules ?? []).flatMap((rule) => rule.use),
    ]),
    ...[...estate.firewalls.values()].flatMap((one) =>
      one.style === 'routed'
        ? (one.sourceTranslation ?? []).flatMap((t) => (t.use === 'interface' ? [] : t.use))
        : [],
    ),
  ].filter((text) => isPublic(bitsOf(text)) && isV4(bitsOf(text)))
}

/** An address a packet may carry for one that nobody can know beforehand. */
export const standIn = (estate: Estate): Bits => next(nobodysAddress(estate, 4))
