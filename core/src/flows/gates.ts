/**
 * Rules asked as sets, after a walk that only noted them. Where packets go does not hang on rules:
 * a walk that asks none stands for a box that many walks would have to be made in, one for each box
 * of each rule. The packets of the box that pass are then those that every gate on the way lets
 * pass, and that is an intersection of sets.
 *
 * Example: a host sends to 0.0.0.0/0 by its NAT. Of one walk's box, rules of the host let pass TCP
 * 443 and UDP 53; the stateless list of its subnet lets the answers in to ports from 1024 on. What
 * passes is two boxes, whatever else the rules hold.
 */
import { familyOf } from '../address/address'
import { derived } from '../incremental/derived'
import type { Model } from '../model/model'
import type { Packet } from '../packet/packet'
import {
  allPackets,
  boxHolds,
  disjoint,
  meet,
  type PacketBox,
  type PacketSet,
} from '../packet/packet-set'
import { hasFinal, passing, passingEdge, sizeOfPassing, type PassingAt } from '../rules/passing'
import type { Fields } from '../walk/fields'
import type { AskedAt, Walked } from '../walk/state'

/** Rules of a host or of a subnet's edge, with the packet as it comes to them. */
export interface Gate {
  readonly asked: Extract<AskedAt, { of: 'host' | 'edge' }>
  readonly packet: Packet
}

/** The gates of a walk and of its answer, in their order. */
export const gatesOf = (walked: Walked, answer: Walked | null): Gate[] =>
  [...walked.state.stations, ...(answer?.state.stations ?? [])].flatMap(({ asked, packet }) =>
    asked && asked.of !== 'policy' ? [{ asked, packet }] : [],
  )

/**
 * The packets of a box that every gate lets pass, exactly; null where they cannot be said as a few
 * boxes, or where an estate rule's final word on a flow decides about its answer. `box` is one for
 * which the walk is the same. Costs a comparison with each box that a gate lets pass; those of a
 * place are found once for a model.
 */
export function passedGates(
  model: Model,
  gates: readonly Gate[],
  box: PacketBox,
): PacketSet | null {
  let rest: PacketSet = [box]
  for (const { asked, packet } of gates) {
    if (rest.length === 0) break
    const open = opening(model, asked, packet)
    if (open === null) return null
    if (open === 'everything') continue
    rest = rest.flatMap((one) => open.flatMap((way) => meetThrough(one, way, asked.fields, packet)))
  }
  return rest
}

/** The packets a gate lets pass; null where they cannot be said as a few boxes. */
type Opening = PacketSet | 'everything' | null

/** More boxes than these are to be taken out of what passes: too many to say it as boxes. */
const MOST_HOLES = 64
/** More boxes than these are not compared with each other. */
const MOST_BOXES = 1_000

function isSayable(model: Model, direction: 'in' | 'out', sets: readonly number[]): boolean {
  const { boxes, holes } = sizeOfPassing(model, direction, sets)
  return boxes <= MOST_BOXES && holes <= MOST_HOLES
}

function opening(model: Model, asked: Gate['asked'], { src }: Packet): Opening {
  const [family, out, answers] = [
    familyOf(src),
    Number(asked.direction === 'out'),
    Number(asked.answers),
  ]
  if (asked.of === 'edge') return edgeOpening(model, family, out, answers, asked.subnet)
  const { subnet, interface: one, frontend = -1 } = asked.place
  const crosses = Number(asked.crosses)
  return hostOpening(model, family, out, answers, crosses, subnet, one, frontend)
}

const edgeOpening = derived(
  (model: Model, family: number, out: number, answers: number, subnet: number): Opening => {
    const at = { direction: out ? ('out' as const) : ('in' as const), answers: answers === 1 }
    const boundary = model.subnets[subnet]?.boundary ?? -1
    if (!isSayable(model, at.direction, boundary < 0 ? [] : [boundary])) return null
    return openingOf(family, (all) => passingEdge(model, subnet, at, [all]))
  },
)

const hostOpening = derived(
  (
    model: Model,
    family: number,
    out: number,
    answers: number,
    crosses: number,
    subnet: number,
    one: number,
    frontend: number,
  ): Opening => {
    const at: PassingAt = {
      direction: out ? 'out' : 'in',
      place: { subnet, interface: one, ...(frontend < 0 ? {} : { frontend }) },
      crosses: crosses === 1,
      answers: answers === 1,
    }
    if (!isSayable(model, at.direction, setsAt(model, at.place))) return null
    const open = openingOf(family, (all) => passing(model, at, [all]))
    const isFinal =
      at.answers && (hasFinal(model, 'in', at.place) || hasFinal(model, 'out', at.place))
    return isFinal && open !== 'everything' ? null : open
  },
)

function setsAt(model: Model, place: PassingAt['place']): number[] {
  const subnet = model.subnets[place.subnet]
  const one = model.interfaces[place.interface]
  const own =
    place.frontend === undefined ? one?.ruleSets : model.frontends[place.frontend]!.ruleSets
  const all = [...(own ?? []), ...(subnet?.ruleSets ?? []), one?.localRules, subnet?.boundary]
  return all.filter((index) => index !== undefined && index >= 0) as number[]
}

function openingOf(family: number, passed: (all: PacketBox) => readonly PacketBox[]): Opening {
  const all = allPackets(family === 4 ? 4 : 6)
  const open = disjoint(passed(all))
  return open.length === 1 && boxHolds(open[0]!, all) ? 'everything' : open
}

const ADDRESSED = ['src', 'dst', 'srcPort', 'dstPort'] as const

/**
 * The packets of a box, as they are sent, that come to a gate within one of its boxes. A field that
 * was translated on the way is a constant there.
 */
function meetThrough(box: PacketBox, way: PacketBox, fields: Fields, packet: Packet): PacketBox[] {
  const protocol = meet(box.protocol, way.protocol)
  if (protocol === null) return []
  const out = { ...box, protocol }
  for (const field of ADDRESSED) {
    const origin = fields[field]
    if (origin !== null) {
      const met = meet(out[origin], way[field])
      if (met === null) return []
      out[origin] = met
    } else {
      const value = packet[field]
      if (value !== null && (value < way[field].from || way[field].to < value)) return []
    }
  }
  return [out]
}
