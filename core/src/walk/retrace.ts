import { answerTo, type Packet } from '../packet/packet'
import { askPolicy } from '../rules/policy'
import type { Direction } from '../rules/condition'
import { askEdge, askHost } from './ask-on-the-way'
import { noteAll } from './scope'
import type { Fields } from './fields'
import { changed, arrive, finish, lose } from './next-state'
import { isWalked } from './state'
import { policyWords } from './steps/firewall'
import type { AskedAt, State, Station, StationKind, Step, Walked, WalkContext } from './state'

/** The kinds of stations that packets pass, and that a way lists. */
export const PASSED_KINDS: ReadonlySet<StationKind> = new Set([
  'gateway',
  'nat',
  'firewall',
  'inspect',
  'peering',
  'transit',
  'endpoint',
  'frontend',
  'site',
  'internet',
])

/**
 * An answer that goes back the way its request came, station by station, without asking any route:
 * so a frontend answers its caller (design part 3.2). What keeps state lets it pass; stateless rule
 * sets, boundaries and firewalls are asked for the answer. `came` are the request's stations, from
 * its sender to where it was delivered. Costs one pass over them.
 */
export function retrace(context: WalkContext, start: State, came: readonly Station[]): Walked[] {
  return goBack(context, start, came, came.length - 1).filter(isWalked)
}

function goBack(context: WalkContext, state: State, came: readonly Station[], at: number): Step {
  const station = came[at]
  if (station === undefined || station.kind === 'source') return arriveAtSender(context, state)
  const goOn = (s: State): Step => goBack(context, s, came, at - 1)
  const { asked } = station
  if (asked?.of === 'host') {
    const here = asAsked(state, station.packet, asked.fields)
    return askHost(context, here, reverse(asked.direction), asked.place, asked.crosses, goOn)
  }
  if (asked?.of === 'edge') {
    const here = asAsked(state, station.packet, asked.fields)
    return askEdge(context, here, reverse(asked.direction), asked.subnet, goOn)
  }
  if (!PASSED_KINDS.has(station.kind)) return goOn(state)
  // Beyond an element the answer has what the element did to its request undone.
  const before = came[at - 1]?.packet ?? station.packet
  return passBack(context, changed(state, { packet: answerTo(before) }), station, goOn)
}

/** The answer passes an element again; a firewall without state is asked for it. */
function passBack(
  context: WalkContext,
  state: State,
  { at, kind, asked }: Station,
  goOn: (state: State) => Step,
): Step {
  const { model } = context
  const open = context.ignoresRules === true
  if (asked?.of !== 'policy' || model.firewalls[asked.firewall]!.stateful || open) {
    return goOn(
      arrive(context, state, {
        at,
        kind,
        decision: 'the answer goes back the way its request came',
      }),
    )
  }
  const firewall = model.firewalls[asked.firewall]!
  const sides = asked.sides && { from: asked.sides.to, to: asked.sides.from }
  const asking = asAsked(state, asked.packet, asked.fields)
  const verdict = askPolicy(model, firewall, asking.packet, sides, noteAll(context, asking))
  const decision = () => policyWords(verdict)
  const passed = arrive(context, state, {
    at,
    kind,
    decision,
    evidence: () => ({ sides, policy: verdict }),
  })
  if (verdict.passes) return goOn(passed)
  return lose(context, passed, 'denied-policy', at, {
    what: `${firewall.id} lets it pass`,
    then: goOn,
  })
}

function arriveAtSender(context: WalkContext, state: State): Step {
  const { asker } = context.answers!
  const there = arrive(context, state, {
    at: asker.ref,
    kind: 'delivery',
    decision: 'the answer arrives',
  })
  return [finish(there, asker)]
}

/** The answer with the addresses it has at the place where its request was asked. */
const asAsked = (state: State, request: Packet, fields: Fields): State =>
  changed(state, { packet: answerTo(request), fields: answerFields(fields) })

/** The origins of the fields of an answer. */
export const answerFields = ({ src, dst, srcPort, dstPort }: AskedAt['fields']): Fields => ({
  src: dst,
  dst: src,
  srcPort: dstPort,
  dstPort: srcPort,
})

const reverse = (direction: Direction): Direction => (direction === 'in' ? 'out' : 'in')
