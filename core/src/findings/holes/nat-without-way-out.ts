import { contextOf } from '../../walk/context'
import { rootOfNat } from '../deciding'
import { lowestOf } from '../../address/address'
import type { NatModel, Model, SubnetModel } from '../../model/model'
import { TCP } from '../../packet/packet'
import type { Question } from '../../trace/question'
import { walk, startState } from '../../walk/engine'
import { lowestInternetAddress } from '../../walk/public-address'
import type { HopTable } from '../../hops/hops'
import { type Finding, finding } from '../finding'
import { leadNatOut } from '../../mend/recipes/associations'
import { type CheckContext, nameOf, fromText } from '../survey'

/** A NAT whose own subnet has no way to the internet. */
export function withoutWayOut(survey: CheckContext, nat: NatModel): Finding[] {
  const { model } = survey
  const subnet = model.subnets[nat.subnet]
  if (nat.kind !== 'public' || !nat.up || !subnet || nat.addresses.length === 0) return []
  const packet = {
    src: lowestOf(4),
    dst: lowestInternetAddress(model, 4),
    protocol: TCP,
    srcPort: 50000,
    dstPort: 443,
  }
  const context = contextOf({ model, about: 'routes', scope: null })
  const lost = walk(
    context,
    startState(packet, { at: 'nat', nat: nat.index, fromSubnet: nat.subnet }),
  ).walks.find((one) => one.cause?.code === 'nat-without-way-out')
  if (!lost) return []
  const inner = lost.cause!.inner!
  const senders = sendersTo(survey, nat)
  const question = questionOf(survey, senders)
  return [
    finding({
      code: 'hole-nat-without-way-out',
      severity: 'critical',
      anchor: nat.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        nat.ref,
        inner.object.includes('/') ? inner.object : null,
        ...senders.map((one) => one.subnet.ref),
      ],
      sentence: `${nat.id} sits in ${subnet.id}, which itself has no way to the internet (${inner.code} at ${nameOf(inner.object)}): everything sent to it is lost.`,
      root: rootOfNat(nat.ref, inner, { model, dst: packet.dst }),
      question,
      facts: [`its own packets are lost: ${inner.code} at ${inner.object}`],
      mend: question === undefined ? leadOut(model, nat) : null,
    }),
  ]
}

/** The subnets whose packets to the internet are lost at a translator, with the hosts that send them. */
function sendersTo(survey: CheckContext, nat: NatModel): Sender[] {
  const { model } = survey
  return (model.networks[nat.network]?.subnets ?? []).flatMap((index) => {
    const subnet = model.subnets[index]!
    const table = survey
      .tablesOf(subnet)
      .find((one) =>
        survey.toInternet(subnet, one, 4).some(({ outcome }) => outcome.cause?.object === nat.ref),
      )
    return table ? [{ subnet, table }] : []
  })
}

interface Sender {
  readonly subnet: SubnetModel
  readonly table: HopTable
}

/** A question whose packet is lost at a translator: from a host that sends there, if there is one. */
function questionOf({ model }: CheckContext, senders: readonly Sender[]): Question | undefined {
  const one = senders.find(({ table }) => table.kind.interfaces.length > 0) ?? senders[0]
  return one && { from: fromText(model, one.subnet, one.table), to: 'internet' }
}

/** Leads a translator that no subnet sends to out by an internet gateway of its network. */
function leadOut(model: Model, nat: NatModel): Finding['mend'] {
  const gateway = model.attached.gateways
    .get(nat.network)
    ?.find((one) => one.kind === 'internet' && one.up)
  return gateway ? leadNatOut(model, model.subnets[nat.subnet]!.id, gateway.id, '0.0.0.0/0') : null
}
