import { formatAddress } from '../../address/address'
import type { Flow } from '../../flows/flow'
import type { Model, SubnetModel } from '../../model/model'
import { packetJson } from '../../packet/packet'
import { finding, type Finding } from '../finding'
import { nameOf, questionOf } from '../survey'

/**
 * What comes from the internet to a subnet and is led to a NAT by the table of the gateway where it
 * enters: a NAT serves subnets of its network, and takes nothing from outside.
 */
export function ledToNat(model: Model, subnet: SubnetModel, flow: Flow): Finding[] {
  return flow.branches.flatMap(({ cause, way }) => {
    if (!cause?.object.startsWith('nats/')) return []
    const door = way.find((ref) => ref.startsWith('gateways/'))
    const gateway = model.gateways[model.index.gateways.get(nameOf(door ?? '')) ?? -1]
    const table = model.tables[gateway?.table ?? -1]
    if (!door || !table) return []
    return [
      finding({
        code: 'hole-nat-out-of-reach',
        severity: 'high',
        anchor: cause.object,
        objects: [cause.object, table.ref, door, subnet.ref],
        sentence: `${nameOf(cause.object)} takes nothing from outside, but ${table.id}, the table of ${nameOf(door)}, leads what comes from the internet to ${subnet.id} there.`,
        part: `${cause.code} ${table.ref} ${subnet.ref}`,
        root: { kind: 'route', object: table.ref, part: cause.object },
        ranges: [formatAddress(flow.packet.dst)],
        packet: packetJson(flow.packet),
        question: questionOf(flow.packet),
      }),
    ]
  })
}
