import { AddressMap } from '../address/address-map'
import type { Estate } from '../format/estate'
import { keepEntries } from './alike'
import { compiling, type Compiling } from './compiling'
import { compileEntrances } from './entrances'
import { compileFirewall, endpointInterfaces, firewallSides } from './firewalls'
import { compileFrontend } from './frontends'
import { compileGateways, compilePeerings } from './gateways'
import { compileInterfaces } from './interfaces'
import type { GatewayModel, Model, NatModel, PeeringModel } from './model'
import { compileNats, sameNatAddresses } from './nats'
import { compileNetworks, sameHomes } from './networks'
import { compileOwners, compilePublicOwners } from './owners'
import { groupBy, mapSection } from './sections'
import { compileSpaces } from './spaces'
import { compileSubnets } from './subnets'
import { compileTables } from './tables'
import { compileTransit } from './transits'

export const none: readonly never[] = []

/**
 * Compiles an estate that passed validation into its immutable, indexed form. Does not fail: what
 * refers to nothing is kept as missing.
 *
 * Given the model of an earlier state of the estate, everything that the change between the two
 * cannot have touched is taken over from it, object by object: sections and objects are compared by
 * identity, so a change should share what it leaves alone. The result is the same as without.
 */
export function compile(estate: Estate, previous: Model | null = null): Model {
  const c = compiling(estate, previous)
  const { index, before, same, sameIndex } = c
  const interfaces = compileInterfaces(c)
  const tables = compileTables(c)
  const nats = compileNats(c)
  const firewalls = mapSection(estate, 'firewalls', {
    before: before((model) => model.firewalls),
    holds: () => sameIndex('interfaces'),
    make: (source, base) => compileFirewall(index, source, base),
  })
  const subnets = compileSubnets(c, interfaces)
  const homes = sameHomes(subnets, previous)
  const frontends = mapSection(estate, 'frontends', {
    before: before((model) => model.frontends),
    holds: () => homes && sameIndex('interfaces', 'ruleSets', 'networks'),
    make: (source, base) => compileFrontend(index, subnets, source, base),
  })
  const sameHolders =
    previous?.interfaces === interfaces &&
    sameNatAddresses(nats, index, previous, 'private') &&
    previous.frontends === frontends &&
    homes
  const owners = sameHolders ? null : compileOwners(index, interfaces, nats, subnets, frontends)
  const networks = compileNetworks(estate, index, subnets, owners, homes, previous)
  const gateways = compileGateways(c)
  const peerings = compilePeerings(c)
  const transits = mapSection(estate, 'transits', {
    before: before((model) => model.transits),
    holds: () =>
      same('networks', 'gateways', 'sites', 'prefixLists', 'services') && sameIndex('networks'),
    make: (source, base) => compileTransit(estate, index, source, base),
  })
  const objects = {
    networks,
    subnets,
    interfaces,
    tables,
    firewalls,
    frontends,
    gateways,
    nats,
    peerings,
    transits,
  }
  return {
    estate,
    ...objects,
    index,
    attached: attachedTo(c, gateways, nats, peerings),
    ...whereThingsStand(c, objects),
    ...compileSpaces(c, networks, subnets, homes),
  }
}

type Objects = Pick<
  Model,
  'networks' | 'interfaces' | 'firewalls' | 'gateways' | 'nats' | 'peerings' | 'transits'
>

/**
 * What belongs to an interface, an address or a site, taken over where nothing it rests on moved.
 */
function whereThingsStand(
  { estate, index, previous, same, sameIndex }: Compiling,
  { networks, interfaces, firewalls, gateways, nats, peerings, transits }: Objects,
): Pick<Model, 'firewallAt' | 'endpointAt' | 'entrances' | 'publicOwners'> {
  const sameEntrances =
    previous?.gateways === gateways &&
    previous.networks === networks &&
    previous.peerings === peerings &&
    previous.transits === transits
  const samePublicOwners =
    previous?.interfaces === interfaces &&
    sameNatAddresses(nats, index, previous, 'public') &&
    same('frontends') &&
    sameIndex('frontends')
  return {
    firewallAt:
      previous?.firewalls === firewalls
        ? previous.firewallAt
        : keepEntries(previous?.firewallAt, firewallSides(firewalls)),
    endpointAt:
      same('endpoints') && sameIndex('interfaces')
        ? previous!.endpointAt
        : keepEntries(previous?.endpointAt, endpointInterfaces(estate, index)),
    entrances: sameEntrances
      ? previous.entrances
      : keepEntries(
          previous?.entrances,
          compileEntrances(estate, gateways, networks, peerings, transits),
        ),
    publicOwners: samePublicOwners
      ? previous.publicOwners
      : keepEntries(
          previous?.publicOwners,
          compilePublicOwners(estate, interfaces, nats, index),
          new AddressMap(),
        ),
  }
}

/** What stands at each network. */
const attachedTo = (
  { index, previous }: Compiling,
  gateways: readonly GatewayModel[],
  nats: readonly NatModel[],
  peerings: readonly PeeringModel[],
): Model['attached'] => ({
  gateways: keepEntries(
    previous?.attached.gateways,
    byNetwork(gateways.filter((one) => index.gateways.has(one.id))),
  ),
  nats: keepEntries(
    previous?.attached.nats,
    byNetwork(nats.filter((one) => index.nats.has(one.id))),
  ),
  peerings: keepEntries(
    previous?.attached.peerings,
    peeringsByNetwork(peerings.filter((one) => index.peerings.has(one.id))),
  ),
})

const inOrderOfIds = <T extends { readonly id: string }>(items: readonly T[]): T[] =>
  [...items].sort((a, b) => (a.id < b.id ? -1 : 1))
const byNetwork = <T extends { readonly id: string; readonly network: number }>(
  items: readonly T[],
): Map<number, T[]> => groupBy(inOrderOfIds(items), (one) => one.network)

function peeringsByNetwork(peerings: readonly PeeringModel[]): Map<number, PeeringModel[]> {
  const out = new Map<number, PeeringModel[]>()
  for (const peering of inOrderOfIds(peerings)) {
    for (const { network } of [peering.a, peering.b])
      out.set(network, [...(out.get(network) ?? []), peering])
  }
  return out
}
