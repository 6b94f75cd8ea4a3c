import { formatAddress, parseAddress } from '../../address/address'
import { longestMatch } from '../../address/prefix-table'
import { pointer, type Operation } from '../../changes/index'
import type { Nat } from '../../format/estate'
import type { Model, SubnetModel } from '../../model/model'
import { mend, type Blank, type Mend } from '../mend'
import { freeId, isUp, type Situation } from '../situation'
import { addRoute } from './routes'

/** The public IPv4 addresses that are reserved and used by nothing, with their regions. */
export const freeReserve = ({
  estate,
  publicOwners,
}: Model): { readonly id: string; readonly region: string | undefined }[] =>
  [...estate.publicAddresses].flatMap(([id, written]) =>
    isUp(written) &&
    written.reserved !== false &&
    !publicOwners.has(parseAddress(id)!) &&
    !id.includes(':')
      ? [{ id, region: written.region }]
      : [],
  )

/** A public address that is reserved, of a region, and used by nothing; null where none is. */
export const reservedAddress = (model: Model, region: string | null): string | null =>
  freeReserve(model).find((one) => one.region === undefined || one.region === region)?.id ?? null

/** A documentation address that nothing in the estate has: a stand-in, never a proposal. */
export function unusedAddress({ publicOwners, inventory, networkSpace }: Model): string {
  let address = parseAddress('203.0.113.254') as number
  while (
    publicOwners.has(address) ||
    inventory.has(address) ||
    longestMatch(networkSpace, address).length > 0
  )
    address--
  return formatAddress(address)
}

/**
 * A translator for the subnet that looked up: in a public subnet of its network where translators
 * are routed to, else attached to its region. Its address comes from the reserve, or is left to be
 * chosen.
 */
export function newTranslator(s: Situation): Mend | null {
  const { model, estate, lookup, network } = s
  const subnet = model.subnets[model.index.subnets.get(lookup?.subnet ?? '') ?? -1]
  if (!lookup || !subnet || network === null || typeof s.dst !== 'number') return null
  const id = freeId(estate.nats, `${network}-translator`)
  const kept = reservedAddress(model, subnet.region)
  const address = kept ?? unusedAddress(model)
  const path = pointer('nats', id, 'addresses', 0)
  const blanks: Blank[] =
    kept === null ? [{ path, wants: 'a public IPv4 address', standIn: address }] : []
  const shared: Nat = { network, kind: 'public', addresses: [address] }
  const add = (value: Nat): Operation => ({ op: 'add', path: pointer('nats', id), value })
  if (model.networks[subnet.network]!.behaviour !== 'table-routed') {
    if (subnet.region === null) return null
    const nat = {
      ...shared,
      placement: { region: subnet.region },
      serves: { subnets: [subnet.id] },
    }
    return mend(`a translator of ${subnet.region} for ${subnet.id}`, [add(nat)], blanks)
  }
  const door = publicSubnetFor(model, subnet)
  if (!door) return null
  return mend(
    `a translator in ${door.id} for ${subnet.id}`,
    [
      add({ ...shared, placement: { subnet: door.id } }),
      ...addRoute(s, lookup, '0.0.0.0/0', { nat: id }),
    ],
    blanks,
  )
}

/** A translator without a way out put into a subnet of its network that has one by a gateway. */
export function elsewhere(model: Model, id: string): Mend | null {
  const own = model.estate.nats.get(id)?.placement?.subnet
  const subnet = model.subnets[model.index.subnets.get(own ?? '') ?? -1]
  const door = subnet && publicSubnetFor(model, subnet)
  if (!door) return null
  return mend(`put ${id} into ${door.id}, which has a way out`, [
    { op: 'replace', path: pointer('nats', id, 'placement', 'subnet'), value: door.id },
  ])
}

/**
 * A subnet of the same network whose default leads to a gateway, in the same zone if there is one.
 */
export function publicSubnetFor(model: Model, { network, zone, index, table }: SubnetModel) {
  const leads = model.subnets.filter(
    (one) =>
      one.network === network &&
      one.index !== index &&
      one.table !== table &&
      one.up &&
      (model.tables[one.table]?.source.routes ?? []).some(
        ({ to, via }) =>
          to === '0.0.0.0/0' &&
          typeof via === 'object' &&
          via.gateway !== undefined &&
          model.estate.gateways.get(via.gateway)?.kind === 'internet',
      ),
  )
  return leads.find((one) => one.zone === zone) ?? leads[0]
}
