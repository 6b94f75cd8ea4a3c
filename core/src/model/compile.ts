import { addressOf, prefixOf } from '../address/prefix'
import { prefixTable } from '../address/prefix-table'
import { PUBLIC_SPACE } from '../address/public'
import { rangeSetOf, subtractRanges } from '../address/ranges'
import { AddressMap, AddressSet } from '../address/address-map'
import type { Estate, State } from '../format/estate'
import type { MapSection } from '../format/schema/document'
import { alike, keepEntries } from './alike'
import { compileEntrances } from './entrances'
import { compileFirewall, endpointInterfaces, firewallSides } from './firewalls'
import { compileFrontend } from './frontends'
import type { InterfaceModel, Model, NatModel, PeeringModel, TableModel } from './model'
import { compileOwners, compilePublicOwners } from './owners'
import { tableEntries } from './routes'
import { targetOf } from './targets'
import { groupBy, indexOf, isPresent, isUp, mapSection } from './sections'
import { compileSubnets } from './subnets'
import { compileTransit } from './transits'
import { sameStates, sameHomes, compileNetworks, spaceOf } from './networks'

export const none: readonly never[] = []

/** The sections a route can lead into. */
const TARGETS = [
  'nats',
  'gateways',
  'endpoints',
  'peerings',
  'interfaces',
  'transits',
  'firewalls',
] as const

/**
 * Compiles an estate that passed validation into its immutable, indexed form. Does not fail: what
 * refers to nothing is kept as missing.
 *
 * Given the model of an earlier state of the estate, everything that the change between the two
 * cannot have touched is taken over from it, object by object: sections and objects are compared by
 * identity, so a change should share what it leaves alone. The result is the same as without.
 */
export function compile(estate: Estate, previous: Model | null = null): Model {
  const index = indexOf(estate, previous)
  const before = <T>(made: (model: Model) => readonly T[]) =>
    previous && { estate: previous.estate, made: made(previous) }
  const sameIndex = (...sections: MapSection[]): boolean =>
    previous !== null && sections.every((section) => previous.index[section] === index[section])
  const same = (...sections: MapSection[]): boolean =>
    previous !== null && sections.every((section) => previous.estate[section] === estate[section])
  const of = (section: MapSection, id: string | undefined): number =>
    id === undefined ? -1 : (index[section].get(id) ?? -1)
  const all = (section: MapSection, ids: readonly string[] | undefined): number[] =>
    (ids ?? []).map((id) => of(section, id)).filter((i) => i >= 0)
  const subnetUp = (id: string | undefined): boolean => {
    const subnet = id === undefined ? undefined : estate.subnets.get(id)
    return isUp(subnet) && isUp(estate.networks.get(subnet!.network))
  }

  const targetsStand = sameIndex(...TARGETS)
  const tablesStand = sameIndex('networks') && same('prefixLists', 'services')
  const setsStand = sameIndex('ruleSets')

  const interfaces = mapSection(estate, 'interfaces', {
    before: before((model) => model.interfaces),
    allHold:
      same('networks') &&
      sameIndex('subnets', 'ruleSets') &&
      sameStates(previous!.estate.subnets, estate.subnets),
    holds: (old, source) =>
      setsStand &&
      old.subnet === of('subnets', source.subnet) &&
      old.up === (isUp(source) && subnetUp(source.subnet)),
    make: (source, base): InterfaceModel => ({
      ...base,
      up: base.up && subnetUp(source.subnet),
      subnet: of('subnets', source.subnet),
      addresses: (source.addresses ?? []).map(addressOf),
      publicAddress: source.publicAddress === undefined ? null : addressOf(source.publicAddress),
      host: source.host ?? base.id,
      ruleSets: all('ruleSets', source.ruleSets),
      localRules: of('ruleSets', source.localRules),
      forwards: source.forwards ?? false,
      source,
    }),
  })
  const tables = mapSection(estate, 'routeTables', {
    before: before((model) => model.tables),
    allHold: targetsStand && tablesStand,
    holds: (_, source) =>
      tablesStand && (targetsStand || leadsAsBefore(source, previous!.index, index)),
    make: (source, base): TableModel => ({
      ...base,
      network: of('networks', source.network),
      routes: prefixTable(
        base.up
          ? (source.routes ?? []).flatMap((route, entry) =>
              tableEntries(estate, index, base.index, route, entry),
            )
          : [],
      ),
      source,
    }),
  })
  const nats = mapSection(estate, 'nats', {
    before: before((model) => model.nats),
    holds: (old, { placement }) =>
      sameIndex('networks', 'subnets') &&
      old.up ===
        (isUp(old.source) && (placement?.subnet === undefined || subnetUp(placement.subnet))),
    make: (source, base): NatModel => ({
      ...base,
      up: base.up && (source.placement?.subnet === undefined || subnetUp(source.placement.subnet)),
      kind: source.kind ?? 'public',
      network: of('networks', source.network),
      subnet: of('subnets', source.placement?.subnet),
      region: source.placement?.region ?? null,
      addresses: (source.addresses ?? []).map(addressOf),
      rules: [...(source.rules ?? [])]
        .sort((a, b) => a.order - b.order)
        .map((rule) => ({
          order: rule.order,
          to: rangeSetOf(rule.to.map(prefixOf)),
          use: rule.use.map(addressOf),
        })),
      draining: new Set((source.draining ?? []).map(addressOf)),
      source,
    }),
  })
  const firewalls = mapSection(estate, 'firewalls', {
    before: before((model) => model.firewalls),
    holds: () => sameIndex('interfaces'),
    make: (source, base) => compileFirewall(index, source, base),
  })
  const subnets = compileSubnets(estate, index, interfaces, previous)
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
  const present = networks.filter((n) => index.networks.has(n.id))
  const gateways = mapSection(estate, 'gateways', {
    before: before((model) => model.gateways),
    holds: () => sameIndex('networks', 'routeTables'),
    make: (source, base) => ({
      ...base,
      kind: source.kind,
      network: of('networks', source.network),
      table: of('routeTables', source.routeTable),
      site: source.site ?? null,
    }),
  })
  const peerings = mapSection(estate, 'peerings', {
    before: before((model) => model.peerings),
    holds: () => sameIndex('networks'),
    make: (source, base) => {
      const side = (s: typeof source.a) => ({
        network: of('networks', s.network),
        acceptsForwarded: s.acceptsForwarded ?? false,
        usesPeerGateway: s.usesPeerGateway ?? false,
        lendsGateway: s.lendsGateway ?? false,
      })
      const [a, b] = [side(source.a), side(source.b)]
      return { ...base, up: base.up && a.network >= 0 && b.network >= 0, a, b }
    },
  })
  const transits = mapSection(estate, 'transits', {
    before: before((model) => model.transits),
    holds: () =>
      same('networks', 'gateways', 'sites', 'prefixLists', 'services') && sameIndex('networks'),
    make: (source, base) => compileTransit(estate, index, source, base),
  })
  const sameEntrances =
    previous?.gateways === gateways &&
    previous.networks === networks &&
    previous.peerings === peerings &&
    previous.transits === transits
  return {
    estate,
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
    index,
    firewallAt:
      previous?.firewalls === firewalls
        ? previous.firewallAt
        : keepEntries(previous?.firewallAt, firewallSides(firewalls)),
    endpointAt:
      same('endpoints') && sameIndex('interfaces')
        ? previous!.endpointAt
        : keepEntries(previous?.endpointAt, endpointInterfaces(estate, index)),
    attached: {
      gateways: keepEntries(
        previous?.attached.gateways,
        byNetwork(gateways.filter((g) => index.gateways.has(g.id))),
      ),
      nats: keepEntries(
        previous?.attached.nats,
        byNetwork(nats.filter((n) => index.nats.has(n.id))),
      ),
      peerings: keepEntries(
        previous?.attached.peerings,
        peeringsByNetwork(peerings.filter((p) => index.peerings.has(p.id))),
      ),
    },
    entrances: sameEntrances
      ? previous.entrances
      : keepEntries(
          previous?.entrances,
          compileEntrances(estate, gateways, networks, peerings, transits),
        ),
    publicOwners:
      previous?.interfaces === interfaces &&
      sameNatAddresses(nats, index, previous, 'public') &&
      same('frontends') &&
      sameIndex('frontends')
        ? previous.publicOwners
        : keepEntries(
            previous?.publicOwners,
            compilePublicOwners(estate, interfaces, nats, index),
            new AddressMap(),
          ),
    inventory: same('publicAddresses')
      ? previous!.inventory
      : new AddressSet(
          [...estate.publicAddresses]
            .filter(([, o]) => isPresent(o))
            .map(([text]) => addressOf(text)),
        ),
    networkSpace: same('networks')
      ? previous!.networkSpace
      : prefixTable(present.flatMap((n) => n.ranges.map((prefix) => ({ prefix, value: n.index })))),
    subnetSpace:
      homes && sameIndex('subnets')
        ? previous!.subnetSpace
        : spaceOf(subnets.filter((s) => index.subnets.has(s.id))),
    siteSpace: same('sites') ? previous!.siteSpace : rangedSpace(estate.sites),
    serviceSpace: same('services') ? previous!.serviceSpace : rangedSpace(estate.services),
    partySpace: same('parties') ? previous!.partySpace : rangedSpace(estate.parties),
    internetSpace: same('networks')
      ? previous!.internetSpace
      : subtractRanges(PUBLIC_SPACE, rangeSetOf(present.flatMap((n) => n.ranges))),
  }
}

/** Whether every route of a table still leads to the object of the same number. */
function leadsAsBefore(
  source: TableModel['source'],
  old: Model['index'],
  index: Model['index'],
): boolean {
  return (source.routes ?? []).every(({ via }) => {
    if (typeof via === 'string' || via.address !== undefined) return true
    const [a, b] = [targetOf(old, via), targetOf(index, via)]
    return 'index' in a && 'index' in b && a.index === b.index && a.id === b.id
  })
}

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

/**
 * Whether the translators of a kind are there, where and with the addresses they were; whether they
 * are up is not asked.
 */
function sameNatAddresses(
  nats: readonly NatModel[],
  index: Model['index'],
  previous: Model | null,
  kind: NatModel['kind'],
): boolean {
  if (
    previous === null ||
    previous.index.nats !== index.nats ||
    previous.nats.length !== nats.length
  )
    return false
  return nats.every((nat, at) => {
    const old = previous.nats[at]!
    if (nat === old) return true
    if (nat.kind !== old.kind) return false
    return (
      nat.kind !== kind ||
      (nat.network === old.network &&
        alike(nat.addresses, old.addresses) &&
        alike(nat.rules, old.rules))
    )
  })
}

function rangedSpace(
  section: ReadonlyMap<string, { readonly state?: State; readonly ranges?: readonly string[] }>,
): Model['siteSpace'] {
  return prefixTable(
    [...section]
      .filter(([, object]) => isPresent(object))
      .flatMap(([id, object]) =>
        (object.ranges ?? []).map((text) => ({ prefix: prefixOf(text), value: id })),
      ),
  )
}
