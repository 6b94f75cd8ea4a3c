import { formatAddress } from '../../address/address'
import type { Flow } from '../../flows/flow'
import type { Model, SubnetModel } from '../../model/model'
import type { Cause } from '../../walk/causes'
import { packetJson } from '../../packet/packet'
import { finding, type Finding, type FindingCode } from '../finding'
import { nameOf, questionOf } from '../survey'

/** The code that tells a loss where the next hop is there, and is no way for what comes in. */
const CODES: Readonly<Record<string, FindingCode>> = {
  looped: 'hole-loop',
  'peering-not-transitive': 'hole-not-transitive',
  'forwarded-refused': 'hole-forwarded-refused',
}

const codeOf = ({ code, object }: Cause): FindingCode | undefined =>
  object.startsWith('nats/') ? 'hole-nat-out-of-reach' : CODES[code]

/**
 * What comes from the internet to a subnet and is led astray by the table of the gateway where it
 * enters: to a NAT, which takes nothing from outside, over a peering that leads no further, or round
 * in a ring. Next hops that are missing or down are told of the table itself.
 */
export function lostInside(model: Model, subnet: SubnetModel, flow: Flow): Finding[] {
  return flow.branches.flatMap(({ cause, way }) => {
    const code = cause && codeOf(cause)
    const door = way.find((ref) => ref.startsWith('gateways/'))
    const gateway = model.gateways[model.index.gateways.get(nameOf(door ?? '')) ?? -1]
    const table = model.tables[gateway?.table ?? -1]
    if (!code || !door || !table) return []
    return [
      finding({
        code,
        severity: 'high',
        anchor: code === 'hole-loop' ? subnet.ref : cause.object,
        objects: [cause.object, table.ref, door, subnet.ref],
        sentence: `${table.id}, the table of ${nameOf(door)}, leads what comes from the internet to ${subnet.id} to ${nameOf(cause.object)}, where it is lost: ${cause.code}.`,
        part: `${cause.code} ${table.ref} ${subnet.ref}`,
        root: { kind: 'route', object: table.ref, part: cause.object },
        ranges: [formatAddress(flow.packet.dst)],
        packet: packetJson(flow.packet),
        question: questionOf(flow.packet),
      }),
    ]
  })
}
