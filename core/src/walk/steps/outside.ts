import { formatAddress, type Address } from '../../address/address'
import type { Model, Owner } from '../../model/model'
import { changed, arrive, finish, lose } from '../next-state'
import type { State, Step, WalkContext } from '../state'
import { comeInToAddress, comeInToNetwork } from './come-in'
import {
  isPublicHere,
  noteForPublic,
  isValue,
  longestHere,
  memberHere,
  noteFor,
  ownerHere,
  sameField,
  type Note,
} from '../scope'

import { arriveAtAsker } from '../undo'
import { oneToOneNetwork } from '../one-to-one'

/**
 * A packet on the internet goes to the owner of the public address, in the estate or outside it.
 */
export function goOutside(context: WalkContext, state: State): Step {
  const { model, answers } = context
  const { dst } = state.packet
  if (context.about === 'routes') return [finish(state, { in: 'outside', ref: 'internet' })]
  const note = noteFor(context, state, 'dst')
  if (!isPublicHere(dst, noteForPublic(context, state, 'dst'))) {
    const there = arrive(context, state, {
      at: 'internet',
      kind: 'delivery',
      decision: () => `${formatAddress(dst)} is private, and the internet does not carry it`,
    })
    return lose(context, there, 'private-destination', 'internet')
  }
  if (
    answers?.asker.in === 'outside' &&
    sameField(context, [dst, state.fields.dst], [answers.askerAddress, answers.askerField])
  ) {
    const ref = answers.asker.ref
    return arriveAtAsker(
      context,
      arrive(context, state, { at: ref, kind: 'delivery', decision: 'the answer arrives' }),
      ref,
    )
  }
  const latest = state.toUndo[0]
  if (answers && latest?.by.startsWith('sites/') && isValue(dst, latest.after, note))
    return [changed(state, { next: { at: 'site', site: latest.by.slice('sites/'.length) } })]
  const owner = ownerForAnswer(context, state) ?? ownerHere(model.publicOwners, dst, note)
  if (owner) return comeInToAddress(context, state, owner)
  const network = longestHere(model.networkSpace, dst, note)[0]
  if (network !== undefined) return comeInToNetwork(context, state, network)
  if (memberHere(model.inventory, dst, note)) {
    const ref = `publicAddresses/${formatAddress(dst)}`
    const lost = arrive(context, state, {
      at: 'internet',
      kind: 'delivery',
      decision: () => `${formatAddress(dst)} is reserved, but nobody has it`,
    })
    return lose(context, lost, 'nobody-has-it', ref)
  }
  const ref = outsideRef(model, dst, note)
  const there = arrive(context, state, {
    at: ref,
    kind: 'delivery',
    decision: () => `arrives at ${formatAddress(dst)}`,
  })
  return [finish(there, { in: 'outside', ref })]
}

/**
 * An answer goes back to the element that translated its flow, also to an address that cannot be
 * known beforehand.
 */
function ownerForAnswer(context: WalkContext, state: State): Owner | null {
  const { model, answers } = context
  const latest = state.toUndo[0]
  if (
    !answers ||
    latest?.kind !== 'source' ||
    !isValue(state.packet.dst, latest.after, noteFor(context, state, 'dst'))
  )
    return null
  const nat = model.index.nats.get(latest.by.slice('nats/'.length))
  if (latest.by.startsWith('nats/') && nat !== undefined) return { kind: 'nat', index: nat }
  if (latest.interface !== undefined) return { kind: 'firewall', index: latest.interface }
  const network = model.index.networks.get(oneToOneNetwork(latest.by) ?? '')
  return network === undefined ? null : { kind: 'one-to-one', index: network }
}

/**
 * Who outside the estate's networks an address belongs to: a service, a party, else just the
 * internet.
 */
export function outsideRef(model: Model, address: Address, note?: Note): string {
  const service = longestHere(model.serviceSpace, address, note)[0]
  if (service !== undefined) return `services/${service}`
  const party = longestHere(model.partySpace, address, note)[0]
  return party !== undefined ? `parties/${party}` : 'internet'
}
