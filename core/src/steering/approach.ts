import { familyOf, type Family } from '../address/address'
import { addressOf } from '../address/prefix'
import type { Firewall, Transit, Via } from '../format/estate'
import type { Model } from '../model/model'

/** How packets of a network are led to a firewall. */
export interface Approach {
  /** The next hop in the network's tables; null where none leads there over that family. */
  readonly via: (family: Family, zone: string | null) => Via | null
  /** The firewall stands in the network itself. */
  readonly isOwn: boolean
  /** The transit that is crossed, and the attachments of the network and of the firewall's. */
  readonly transit: { readonly id: string; readonly own: string; readonly wall: string } | null
  /** The peering that is crossed. */
  readonly peering: string | null
}

/** Where a firewall stands: the subnets of its interfaces or endpoints, by id. */
export function subnetsOfWall(model: Model, source: Firewall): string[] {
  const all =
    source.style === 'inline'
      ? Object.values(source.endpoints ?? {}).map(({ subnet }) => subnet)
      : sidesOf(source).map((one) => model.estate.interfaces.get(one)?.subnet)
  return [...new Set(all)].filter((id) => id !== undefined)
}

/** The interfaces of a routed firewall, those that take traffic of the networks first. */
function sidesOf(source: Firewall): string[] {
  const interfaces = source.style === 'routed' ? (source.interfaces ?? {}) : {}
  const rank = (label: string): number =>
    label === 'inside' ? 0 : label === 'outside' ? 2 : label === 'manage' ? 3 : 1
  return Object.entries(interfaces)
    .sort(([a], [b]) => rank(a) - rank(b))
    .map(([, id]) => id)
}

/** How each network gets to a firewall; without those that do not. Costs what `approachTo` does. */
export const approachesTo = (model: Model, firewall: string): ReadonlyMap<string, Approach> =>
  new Map(
    [...model.estate.networks.keys()].flatMap((network): [string, Approach][] => {
      const approach = approachTo(model, firewall, network)
      return approach === null ? [] : [[network, approach]]
    }),
  )

/**
 * How a network's packets get to a firewall: by an interface or endpoint of it in the network, by
 * its address over a peering, where the network's tables may name an address beyond it, or over a
 * transit; null where no next hop leads there. Costs a step for each peering and transit.
 */
function approachTo(model: Model, id: string, network: string): Approach | null {
  const source = model.estate.firewalls.get(id)!
  const networkOf = (subnet: string | undefined): string | undefined =>
    model.estate.subnets.get(subnet ?? '')?.network
  const homes = [...new Set(subnetsOfWall(model, source).map(networkOf))]
  if (homes.includes(network)) return ownApproach(model, id, source, network)
  const own = model.networks[model.index.networks.get(network) ?? -1]
  const peering = model.peerings.find(
    ({ a, b }) =>
      (a.network === own?.index && homes.includes(model.networks[b.network]?.id)) ||
      (b.network === own?.index && homes.includes(model.networks[a.network]?.id)),
  )
  if (peering && own?.behaviour === 'default-open' && source.style === 'routed')
    return {
      via: (family) => {
        const address = addressOfWall(model, source, family)
        return address === null ? null : { address }
      },
      isOwn: false,
      transit: null,
      peering: peering.id,
    }
  for (const [transit, { attachments = {} }] of model.estate.transits) {
    const here = attachmentOf(attachments, network)
    const wall = homes
      .map((home) => attachmentOf(attachments, home))
      .find((one) => one !== undefined)
    if (here && wall)
      return {
        via: () => ({ transit }),
        isOwn: false,
        transit: { id: transit, own: here, wall },
        peering: null,
      }
  }
  return null
}

const attachmentOf = (
  attachments: NonNullable<Transit['attachments']>,
  network: string | undefined,
): string | undefined =>
  network === undefined
    ? undefined
    : Object.entries(attachments).find(([, one]) => one.network === network)?.[0]

function ownApproach(model: Model, id: string, source: Firewall, network: string): Approach {
  const isHere = (subnet: string | undefined): boolean =>
    model.estate.subnets.get(subnet ?? '')?.network === network
  const labels =
    source.style === 'inline'
      ? Object.entries(source.endpoints ?? {}).filter(([, { subnet }]) => isHere(subnet))
      : []
  const side = sidesOf(source).find((one) => isHere(model.estate.interfaces.get(one)?.subnet))
  const near = (zone: string | null): string | undefined =>
    labels.find(
      ([, { subnet }]) => model.estate.subnets.get(subnet)?.zone === (zone ?? undefined),
    )?.[0]
  return {
    via: (_, zone) =>
      side === undefined
        ? { inspect: `${id}/${near(zone) ?? labels[0]![0]}` }
        : { interface: side },
    isOwn: true,
    transit: null,
    peering: null,
  }
}

/** The address of a routed firewall's first side that has one of a family. */
export function addressOfWall(model: Model, source: Firewall, family: Family): string | null {
  for (const side of sidesOf(source)) {
    const own = model.estate.interfaces.get(side)?.addresses ?? []
    const found = own.find((text) => familyOf(addressOf(text)) === family)
    if (found !== undefined) return found
  }
  return null
}
