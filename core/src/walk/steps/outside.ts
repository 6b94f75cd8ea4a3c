import { formatAddress, type Address } from '../../address/address'
import { longestMatch } from '../../address/prefix-table'
import type { Model, Owner } from '../../model/model'
import { arrive, finish, lose, type State, type Step, type WalkContext } from '../state'
import { comeInToAddress, comeInToNetwork } from './come-in'
import { arriveAtAsker } from '../undo'
import { oneToOneNetwork } from './gateway'

/** A packet on the internet: to whoever has the public address, in the estate or outside it. */
export function goOutside(context: WalkContext, state: State): Step {
  const { model, answers } = context
  const { dst } = state.packet
  if (answers?.asker.in === 'outside' && dst === answers.askerAddress) {
    const ref = answers.asker.ref
    return arriveAtAsker(context, arrive(context, state, { at: ref, kind: 'delivery', decision: 'the answer arrives' }), ref)
  }
  const latest = state.toUndo[0]
  if (answers && latest?.by.startsWith('sites/') && latest.after === dst) return [{ ...state, next: { at: 'site', site: latest.by.slice('sites/'.length) } }]
  const owner = ownerForAnswer(context, state) ?? model.publicOwners.get(dst)
  if (owner) return comeInToAddress(context, state, owner)
  const network = longestMatch(model.networkSpace, dst)[0]
  if (network !== undefined) return comeInToNetwork(context, state, network)
  if (model.inventory.has(dst)) {
    const ref = `publicAddresses/${formatAddress(dst)}`
    const lost = arrive(context, state, { at: 'internet', kind: 'delivery', decision: `${formatAddress(dst)} is reserved, but nobody has it` })
    return lose(context, lost, 'nobody-has-it', ref)
  }
  const ref = outsideRef(model, dst)
  const there = arrive(context, state, { at: ref, kind: 'delivery', decision: `arrives at ${formatAddress(dst)}` })
  return [finish(there, { in: 'outside', ref })]
}

/** An answer goes back to whatever translated its flow, also to an address nobody could know beforehand. */
function ownerForAnswer({ model, answers }: WalkContext, state: State): Owner | null {
  const latest = state.toUndo[0]
  if (!answers || latest?.kind !== 'source' || latest.after !== state.packet.dst) return null
  const nat = model.index.nats.get(latest.by.slice('nats/'.length))
  if (latest.by.startsWith('nats/') && nat !== undefined) return { kind: 'nat', index: nat }
  if (latest.interface !== undefined) return { kind: 'firewall', index: latest.interface }
  const network = model.index.networks.get(oneToOneNetwork(latest.by) ?? '')
  return network === undefined ? null : { kind: 'one-to-one', index: network }
}

/** Who outside the estate's networks an address belongs to: a service, a party, else just the internet. */
export function outsideRef(model: Model, address: Address): string {
  const service = longestMatch(model.serviceSpace, address)[0]
  if (service !== undefined) return `services/${service}`
  const party = longestMatch(model.partySpace, address)[0]
  return party !== undefined ? `parties/${party}` : 'internet'
}
