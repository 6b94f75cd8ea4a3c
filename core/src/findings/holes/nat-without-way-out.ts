import { contextOf } from '../../walk/context'
import { rootOfNat } from '../deciding'
import { lowestOf } from '../../address/address'
import { rangeSet, type RangeSet } from '../../address/ranges'
import type { NatModel, Model, SubnetModel } from '../../model/model'
import { TCP } from '../../packet/packet'
import type { Question } from '../../trace/question'
import { walk, startState } from '../../walk/engine'
import { lowestInternetAddress } from '../../walk/public-address'
import type { HopTable } from '../../hops/hops'
import { type Finding, finding } from '../finding'
import { leadNatOut } from '../../mend/recipes/associations'
import { firstShowing } from '../shown'
import { type CheckContext, nameOf } from '../survey'

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
      severity: question ? 'critical' : 'low',
      anchor: nat.ref,
      objects: [
        subnet.ref,
        ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []),
        nat.ref,
        inner.object.includes('/') ? inner.object : null,
        ...new Set(senders.map((one) => one.subnet.ref)),
      ],
      sentence: `${nat.id} sits in ${subnet.id}, which itself has no way to the internet (${inner.code} at ${nameOf(inner.object)}): ${question ? 'everything sent to it is lost' : 'nothing is sent to it now'}.`,
      root: rootOfNat(nat.ref, inner, { model, dst: packet.dst }),
      ...(question && { question }),
      facts: [`its own packets are lost: ${inner.code} at ${inner.object}`],
      mend: question === null ? leadOut(model, nat) : null,
    }),
  ]
}

/** Kinds of host whose packets are lost at a translator, with the destinations of each. */
function sendersTo(survey: CheckContext, nat: NatModel): Sender[] {
  const { model } = survey
  return (model.networks[nat.network]?.subnets ?? []).flatMap((index) => {
    const subnet = model.subnets[index]!
    return survey.tablesOf(subnet).flatMap((table): Sender[] => {
      const lost = table.shared[4].filter(({ hop }) => hop.cause?.object === nat.ref)
      return lost.length === 0 ? [] : [{ subnet, table, ranges: rangeSet(lost) }]
    })
  })
}

interface Sender {
  readonly subnet: SubnetModel
  readonly table: HopTable
  readonly ranges: RangeSet
}

/** A question whose packet is lost at a translator: from a host that sends there, if there is one. */
function questionOf(survey: CheckContext, senders: readonly Sender[]): Question | null {
  const hosts = senders.filter(({ table }) => table.kind.interfaces.length > 0)
  return firstShowing(
    survey,
    hosts.length > 0 ? hosts : senders,
    ({ cause }) => cause?.code === 'nat-without-way-out',
  )
}

/** Leads a translator that no subnet sends to out by an internet gateway of its network. */
function leadOut(model: Model, nat: NatModel): Finding['mend'] {
  const gateway = model.attached.gateways
    .get(nat.network)
    ?.find((one) => one.kind === 'internet' && one.up)
  return gateway ? leadNatOut(model, model.subnets[nat.subnet]!.id, gateway.id, '0.0.0.0/0') : null
}
