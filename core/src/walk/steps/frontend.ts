import { familyOf, formatAddress } from '../../address/address'
import type { FrontendModel } from '../../model/model'
import { DEFAULT_SOURCE_PORT, protocolName } from '../../packet/packet'
import { fact, type FactsEvidence } from '../facts'
import { askHost } from '../ask-on-the-way'
import { portMatches, protocolMatches } from '../../rules/condition'
import { noteAll } from '../scope'
import { arriveAtAsker } from '../undo'
import { changed, arrive, lose, type Said } from '../next-state'
import type { End, State, Step, WalkContext } from '../state'

/** Where a frontend stands, as an end of the flows it opens. */
export function frontendEnd(frontend: FrontendModel): End & { in: 'subnet' } {
  return {
    in: 'subnet',
    place: { subnet: frontend.subnet, interface: -1, frontend: frontend.index },
    ref: frontend.ref,
  }
}

/**
 * A packet to a frontend's address, past its rules: it ends the caller's flow and opens one to each
 * target.
 */
export function reachFrontend(
  context: WalkContext,
  state: State,
  index: number,
  fromSubnet: number,
): Step {
  const frontend = context.model.frontends[index]!
  const end = frontendEnd(frontend)
  const enter = (s: State): Step =>
    context.answers ? takeAnswer(context, s, frontend) : openSecond(context, s, frontend)
  if (!frontend.up) {
    const down = arrive(context, state, {
      at: frontend.ref,
      kind: 'frontend',
      decision: 'it is not up',
    })
    return lose(context, down, 'interface-not-up', frontend.ref, {
      what: `${frontend.id} is up`,
      then: enter,
    })
  }
  return askHost(context, state, 'in', end.place, fromSubnet !== frontend.subnet, enter)
}

function takeAnswer(context: WalkContext, state: State, frontend: FrontendModel): Step {
  const there = arrive(context, state, {
    at: frontend.ref,
    kind: 'frontend',
    decision: 'takes the answer',
  })
  const asker = context.answers!.asker
  return asker.ref === frontend.ref
    ? arriveAtAsker(context, there, frontend.ref)
    : lose(context, there, 'answer-to-other-host', frontend.ref)
}

function openSecond(context: WalkContext, state: State, frontend: FrontendModel): Step {
  const { model } = context
  const { dstPort } = state.packet
  const listener = frontend.listeners.find(
    (one) =>
      protocolMatches(one.protocol, state.packet, noteAll(context, state)) &&
      portMatches([[one.port, one.port]], state.packet, 'dstPort', noteAll(context, state)),
  )
  const evidence = (): FactsEvidence => ({
    facts: frontend.listeners.map((one) => {
      const targets =
        one.targets.map((target) => model.interfaces[target]?.id ?? 'gone').join(', ') ||
        'no target'
      return fact(
        `listens on ${one.protocol === null ? 'any' : protocolName(one.protocol)} ${one.port}`,
        `to ${targets}, port ${one.targetPort}`,
        one === listener,
      )
    }),
  })
  const at = (decision: Said): State =>
    arrive(context, state, { at: frontend.ref, kind: 'frontend', decision, evidence })
  if (!listener)
    return lose(
      context,
      at(() => `nothing listens on ${dstPort ?? 'this protocol'}`),
      'no-listener',
      frontend.ref,
    )
  if (listener.targets.length === 0)
    return lose(context, at('it has no target'), 'no-listener', frontend.ref)
  return listener.targets.flatMap((target): Step =>
    openTo(context, state, { frontend, target, port: listener.targetPort, at, evidence }),
  )
}

/** A flow that a frontend opens to one of a listener's targets. */
interface Opening {
  readonly frontend: FrontendModel
  readonly target: number
  readonly port: number
  readonly at: (decision: Said) => State
  readonly evidence: () => FactsEvidence
}

function openTo(context: WalkContext, state: State, opening: Opening): Step {
  const { frontend, target, port, at, evidence } = opening
  const { protocol, dstPort, dst } = state.packet
  const one = context.model.interfaces[target]
  if (!one) return lose(context, at('a target is gone'), 'target-missing', frontend.ref)
  const src = frontend.addresses.find((a) => one.addresses.some((b) => familyOf(a) === familyOf(b)))
  const to = one.addresses.find((b) => src !== undefined && familyOf(b) === familyOf(src))
  if (src === undefined || to === undefined)
    return lose(
      context,
      at(() => `${one.id} has no address of its family`),
      'target-missing',
      frontend.ref,
    )
  const end = frontendEnd(frontend)
  const opened = arrive(context, state, {
    at: frontend.ref,
    kind: 'frontend',
    decision: () => `ends the flow to ${formatAddress(dst)} and opens one to ${one.id}`,
    evidence,
    packet: {
      src,
      dst: to,
      protocol,
      srcPort: dstPort === null ? null : DEFAULT_SOURCE_PORT,
      dstPort: dstPort === null ? null : port,
    },
  })
  const { packet, fields, translations, passed, allowedByEstate, firewalls, stations } = state
  const leg = { packet, fields, translations, passed, allowedByEstate, firewalls, stations }
  return [
    changed(opened, {
      fields: { src: null, dst: null, srcPort: null, dstPort: null },
      legs: [...state.legs, { end, address: src, ...leg }],
      translations: [],
      passed: [],
      allowedByEstate: [],
      firewalls: [],
      seenAs: [],
      next: { at: 'send', sender: { kind: 'host', place: end.place, ref: frontend.ref } },
    }),
  ]
}
