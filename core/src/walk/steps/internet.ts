import { formatAddress, type Address } from '../../address/address'
import type { NetworkModel } from '../../model/model'
import { attachedNat } from '../attached-nat'
import { publicAddressOf, SOME_ADDRESS } from '../public-address'
import { answerFacts, doorFacts, type FactsEvidence } from '../facts'
import { changed, arrive, leaveBy, lose, type Said } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { isPublicHere, noteForPublic, noteFor, noteForSource } from '../scope'
import { undoAtDoor } from '../undo'
import { sourceRef, toPublic, translatedText } from './gateway'
import { oneToOneOf } from '../one-to-one'
import { throughAttachedNat } from './nat'

/**
 * Out by the built-in way of a default-open network: attached NAT, own public address, shared
 * address, in this order.
 */
export function leaveByBuiltInDoor(
  context: WalkContext,
  state: State,
  index: number,
  subnet: number,
): Step {
  const { model } = context
  const network = model.networks[index]!
  const { src, dst } = state.packet
  const note = noteFor(context, state, 'src')
  const known =
    context.answers || isPublicHere(src, noteForPublic(context, state, 'src'))
      ? null
      : publicAddressOf(model, index, src, noteForSource(context, state, index))
  const evidence = (): FactsEvidence => ({
    facts: context.answers
      ? answerFacts(state, oneToOneOf(network))
      : doorFacts(src, dst, becomesText(network, known)),
  })
  const door = (s: State, decision: Said): State =>
    arrive(context, s, { at: 'internet', kind: 'internet', decision, evidence })
  const out = (s: State, decision: Said): Step => [
    changed(leaveBy(door(s, decision), 'internet'), { pendingNat: -1, next: { at: 'outside' } }),
  ]
  if (!isPublicHere(dst, noteForPublic(context, state, 'dst')))
    return lose(
      context,
      door(state, `${formatAddress(dst)} is private, and the internet does not carry it`),
      'private-destination',
      (model.subnets[subnet] ?? network).ref,
    )
  if (context.answers !== null) return undoAtDoor(context, state, network, network.ref, out)
  if (isPublicHere(src, noteForPublic(context, state, 'src')))
    return out(state, 'the source is public already and passes')
  const nat = attachedNat(model, index, src, note, noteForSource(context, state, index))
  if (nat)
    return throughAttachedNat(context, state, nat, (s) => [
      changed(leaveBy(s, nat.ref), { pendingNat: -1, next: { at: 'outside' } }),
    ])
  if (known !== null)
    return out(toPublic(context, state, network, known), () => translatedText(src, known))
  if (network.implicitEgress && typeof src === 'number') {
    return out(
      toPublic(context, state, network, SOME_ADDRESS),
      () => `${formatAddress(src)} becomes a shared address that nobody can foresee`,
    )
  }
  return lose(
    context,
    door(state, `${formatAddress(src)} is private and has no public address`),
    'no-public-address',
    sourceRef(context, state, network),
    {
      what: 'the source has a public address',
      then: (s) => out(toPublic(context, s, network, SOME_ADDRESS), ''),
    },
  )
}

/**
 * What a source becomes on its way out, as a fact names it; null where it has no public address.
 */
function becomesText(
  { implicitEgress }: NetworkModel,
  known: Address | typeof SOME_ADDRESS | null,
): string | null {
  if (known === null) return implicitEgress ? 'a shared one that nobody can foresee' : null
  return known === SOME_ADDRESS ? 'one of its own' : formatAddress(known)
}
