import { formatAddress, type Address } from '../../address/address'
import type { GatewayModel, NetworkModel } from '../../model/model'
import { attachedNat } from '../attached-nat'
import { publicAddressOf, SOME_ADDRESS, standInAddress } from '../public-address'
import { answerFacts, doorFacts, fact, type FactsEvidence } from '../facts'
import { changed, arrive, leaveBy, lose, type Said } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { throughAttachedNat } from './nat'
import {
  isPublicHere,
  noteForPublic,
  longestHere,
  noteFor,
  noteForSource,
  ownerHere,
} from '../scope'

import { undoAtDoor } from '../undo'
import { oneToOneOf } from '../one-to-one'

/** Out by an internet gateway or an outbound-v6 gateway that is up and of this network. */
export function leaveByGateway(context: WalkContext, state: State, index: number): Step {
  const { model } = context
  const gateway = model.gateways[index]!
  const network = model.networks[gateway.network]!
  const { src, dst } = state.packet
  const own =
    context.answers || isPublicHere(src, noteForPublic(context, state, 'src'))
      ? null
      : publicAddressOf(model, network.index, src, noteForSource(context, state, network.index))
  const evidence = gatewayFacts(context, state, gateway, own)
  const at = (decision: Said, s: State = state): State =>
    arrive(context, s, { at: gateway.ref, kind: 'gateway', decision, evidence })
  if (!isPublicHere(dst, noteForPublic(context, state, 'dst'))) {
    return lose(
      context,
      at(() => `${formatAddress(dst)} is private, and the internet does not carry it`),
      'private-destination',
      gateway.ref,
    )
  }
  const refused =
    gateway.kind === 'outbound-v6' ? refusedOutbound(context, state, gateway, at) : null
  if (refused) return refused
  if (context.answers !== null) {
    return undoAtDoor(context, state, network, gateway.ref, (s, decision) =>
      out(at(decision, s), gateway),
    )
  }
  if (isPublicHere(src, noteForPublic(context, state, 'src')))
    return out(
      at(
        typeof src === 'number'
          ? 'the source is public already and passes'
          : 'a global IPv6 address passes untranslated',
      ),
      gateway,
    )
  return leaveTranslated(context, state, gateway, own, at)
}

type Arrived = (decision: Said, state?: State) => State

/** What is looked at when a packet comes to a gateway to leave by it. */
function gatewayFacts(
  context: WalkContext,
  state: State,
  gateway: GatewayModel,
  own: Address | typeof SOME_ADDRESS | null,
): () => FactsEvidence {
  const network = context.model.networks[gateway.network]!
  const { src, dst } = state.packet
  const becomes =
    own === null
      ? null
      : own === SOME_ADDRESS
        ? 'one of its own, not known beforehand'
        : formatAddress(own)
  return () => ({
    facts: [
      fact('it is up and attached here', network.id, true),
      ...(gateway.kind === 'outbound-v6'
        ? [fact('the packet is IPv6', formatAddress(dst), typeof dst !== 'number')]
        : []),
      ...(context.answers && gateway.kind === 'outbound-v6'
        ? [fact('the flow began inside', 'no: this is an answer', false)]
        : []),
      ...(context.answers ? answerFacts(state, oneToOneOf(network)) : doorFacts(src, dst, becomes)),
    ],
  })
}

/** What an outbound-v6 gateway does not let out; null for what it does. */
function refusedOutbound(
  context: WalkContext,
  state: State,
  gateway: GatewayModel,
  at: Arrived,
): Step | null {
  if (typeof state.packet.dst === 'number')
    return lose(context, at('takes IPv6 only'), 'gateway-wrong-family', gateway.ref, {
      what: 'it takes IPv4 too',
      then: (s) => out(s, gateway),
    })
  if (context.answers === null) return null
  return lose(
    context,
    at('lets only flows begun inside through'),
    'gateway-outbound-only',
    gateway.ref,
    { what: 'it lets answers out', then: (s) => out(s, gateway) },
  )
}

/** A private source takes its public address, or that of the NAT its subnet is attached to. */
function leaveTranslated(
  context: WalkContext,
  state: State,
  gateway: GatewayModel,
  own: Address | typeof SOME_ADDRESS | null,
  at: Arrived,
): Step {
  const { model } = context
  const network = model.networks[gateway.network]!
  const { src } = state.packet
  if (own !== null)
    return out(
      at(() => translatedText(src, own), toPublic(context, state, network, own)),
      gateway,
    )
  const nat =
    network.behaviour === 'priority-routed'
      ? attachedNat(
          model,
          network.index,
          src,
          noteFor(context, state, 'src'),
          noteForSource(context, state, network.index),
        )
      : null
  if (nat)
    return throughAttachedNat(context, state, nat, (s) =>
      out(
        arrive(context, s, {
          at: gateway.ref,
          kind: 'gateway',
          decision: 'the source is public already and passes',
        }),
        gateway,
      ),
    )
  return lose(
    context,
    at(() => `${formatAddress(src)} is private and has no public address`),
    'no-public-address',
    sourceRef(context, state, network),
    {
      what: 'the source has a public address',
      then: (s) => out(toPublic(context, s, network, SOME_ADDRESS), gateway),
    },
  )
}

/** A source that becomes its public address, in words. */
export const translatedText = (src: Address, own: Address | typeof SOME_ADDRESS): string =>
  own === SOME_ADDRESS
    ? `${formatAddress(src)} becomes a public address of its own, not known beforehand`
    : `${formatAddress(src)} becomes ${formatAddress(own)}, one to one`

/** The source takes its public address, one to one; a door of the same network undoes it. */
export function toPublic(
  context: WalkContext,
  state: State,
  network: NetworkModel,
  address: Address | typeof SOME_ADDRESS,
): State {
  const unknown = address === SOME_ADDRESS
  const after = unknown ? standInAddress(context.model) : address
  const { src } = state.packet
  return changed(state, {
    packet: { ...state.packet, src: after },
    fields: { ...state.fields, src: null },
    seenAs: [unknown ? 'unpredictable' : formatAddress(after)],
    translations: [
      ...state.translations,
      {
        by: oneToOneOf(network),
        kind: 'source',
        before: src,
        after,
        origin: { address: state.fields.src, port: null },
      },
    ],
  })
}

/**
 * What has no public address: the interface, the subnet of an unoccupied address, or the network
 * where it has neither.
 */
export function sourceRef(context: WalkContext, state: State, network: NetworkModel): string {
  const { model } = context
  const { src } = state.packet
  const note = noteForSource(context, state, network.index)
  const owner = ownerHere(network.owners, src, note)
  if (owner?.kind === 'interface') return model.interfaces[owner.index]!.ref
  if (owner?.kind === 'nat') return model.nats[owner.index]!.ref
  const subnet = longestHere(network.subnetSpace, src, note)[0]
  return subnet === undefined ? network.ref : model.subnets[subnet]!.ref
}

function out(state: State, gateway: GatewayModel): Step {
  return [changed(leaveBy(state, gateway.ref), { pendingNat: -1, next: { at: 'outside' } })]
}
