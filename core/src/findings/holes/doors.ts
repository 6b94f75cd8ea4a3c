import { familyOf, formatAddress, type Address } from '../../address/address'
import { internetRanges } from '../../expectations/selection'
import type { Model, NetworkModel, Owner } from '../../model/model'
import { derived } from '../../incremental/derived'
import { presentOf } from '../../model/present'
import { groupBy } from '../../model/sections'
import { allPackets } from '../../packet/packet-set'
import { passing } from '../../rules/passing'
import { finding, type Finding } from '../finding'
import { attributeOf, type Root } from '../root'
import { check, internetText, nameOf } from '../survey'

/**
 * Public addresses in networks without an internet gateway that is up, by which nobody can come in:
 * those of interfaces, frontends and firewalls, and global IPv6 addresses of hosts whose rules let
 * the internet in.
 */
export const checkDoors = check(
  'what the internet reaches',
  ({ model }) => presentOf(model, 'networks'),
  ({ model }, index) => {
    const network = model.networks[index]!
    const root = doorless(model, network)
    if (root === null) return []
    return [
      ...(publicAddressesByNetwork(model).get(index) ?? []),
      ...network.subnets.flatMap((subnet) =>
        model.subnets[subnet]!.interfaces.flatMap((one) => openTo(model, one)),
      ),
    ].map((one) => withoutDoor(model, network, root, one))
  },
)

/** An address that somebody could ask for, and the object that has it. */
interface Asked {
  readonly ref: string
  readonly subnet: number
  readonly address: Address
}

/** Why the internet cannot come into a network; null where it can. */
function doorless(model: Model, network: NetworkModel): Root | null {
  // Others have a way in of their own.
  if (network.behaviour !== 'table-routed') return null
  if (!network.up) return attributeOf(network.ref, 'state')
  const doors = doorsOf(model, network)
  if (doors.some(({ up }) => up)) return null
  const [down] = doors
  return down
    ? attributeOf(down.ref, 'state')
    : { kind: 'missing-object', object: network.ref, part: 'gateways' }
}

const doorsOf = (model: Model, { index }: NetworkModel) =>
  (model.attached.gateways.get(index) ?? []).filter(({ kind }) => kind === 'internet')

/** The public addresses by the network that their owners stand in. */
const publicAddressesByNetwork = derived((model: Model): ReadonlyMap<number, readonly Asked[]> => {
  const asked = [...model.publicOwners].flatMap(([address, owner]): Asked[] => {
    const one = ownerOf(model, owner)
    return one ? [{ ...one, address }] : []
  })
  return groupBy(asked, ({ subnet }) => model.subnets[subnet]?.network ?? -1)
})

function ownerOf(model: Model, { kind, index }: Owner): Omit<Asked, 'address'> | null {
  if (kind === 'interface' || kind === 'frontend') {
    const { ref, subnet } =
      kind === 'interface' ? model.interfaces[index]! : model.frontends[index]!
    return { ref, subnet }
  }
  const side = kind === 'firewall' ? model.firewallAt.get(index) : undefined
  return side === undefined
    ? null
    : { ref: model.firewalls[side.firewall]!.ref, subnet: model.interfaces[index]!.subnet }
}

/** The IPv6 addresses of a host that its rules let the internet in to. */
function openTo(model: Model, index: number): Asked[] {
  const { ref, subnet, addresses, up } = model.interfaces[index]!
  const place = { subnet, interface: index }
  return addresses.flatMap((address) => {
    if (!up || familyOf(address) === 4) return []
    const asked = internetRanges(model)
      .filter(({ from }) => familyOf(from) === 6)
      .map((src) => ({ ...allPackets(6), src, dst: { from: address, to: address } }))
    const passed = passing(model, { direction: 'in', place, crosses: true }, asked)
    return passed.length > 0 ? [{ ref, subnet, address }] : []
  })
}

const withoutDoor = (
  model: Model,
  network: NetworkModel,
  root: Root,
  { ref, subnet, address }: Asked,
): Finding =>
  finding({
    code: 'hole-no-door',
    severity: 'medium',
    anchor: ref,
    objects: [
      ref,
      model.subnets[subnet]!.ref,
      network.ref,
      root.object,
      // The doors of a network that is not up are shut too.
      ...doorsOf(model, network).map((door) => door.ref),
    ],
    sentence: `${nameOf(ref)} has ${formatAddress(address)}, but ${network.up ? `${network.id} has no internet gateway that is up` : `${network.id} is not up`}, so nobody can come in by it.`,
    part: formatAddress(address),
    root,
    ranges: [formatAddress(address)],
    question: {
      from: internetText(model, familyOf(address)),
      to: formatAddress(address),
    },
  })
