import { formatAddress } from '../address/address'
import { addressOf } from '../address/prefix'
import { isPublic } from '../address/public'
import { pointer } from '../mend/change'
import type { Model, RouteModel, SubnetModel } from '../model/model'
import { derivedAndCompared, sameItems } from '../model/derived'
import { nameServersOf, resolveName } from '../trace/names'
import { isRefusal } from '../trace/question'
import { trace } from '../trace/trace'
import { applianceAt } from '../walk/next-hops/registry'
import { finding, type Finding } from './finding'
import { leaveInZone, linkZone } from './mends'
import {
  check,
  checkSubnets,
  checkWhole,
  FAMILIES,
  fromText,
  gatewayOf,
  internetText,
  listText,
  nameOf,
  presentOf,
  type Survey,
} from './survey'

/** Where what is declared of a subnet and what is so part ways: its role, whom it stands beside, its zone. */
export const checkRoles = checkSubnets((survey, subnet) => [
  ...role(survey, subnet),
  ...besideFirewall(survey, subnet),
  ...zones(survey, subnet),
])

/** Whether a subnet’s routes lead to a door by which the internet can come in. */
function hasDoor(survey: Survey, subnet: SubnetModel): string | null {
  const { model } = survey
  const behaviour = model.networks[subnet.network]!.behaviour
  const inline = (ref: string): boolean =>
    ref.startsWith('firewalls/') &&
    model.firewalls[model.index.firewalls.get(nameOf(ref)) ?? -1]?.style === 'inline'
  for (const table of survey.tablesOf(subnet)) {
    for (const family of FAMILIES) {
      for (const { outcome } of survey.toInternet(subnet, table, family)) {
        const lacksAddress = outcome.cause?.code === 'no-public-address'
        if (outcome.cause !== null && !lacksAddress) continue
        // An inline firewall before the door does not keep the internet from coming in by it.
        const way = (outcome.ways[0] ?? []).filter((ref) => !inline(ref))
        if (way.length !== 1) continue
        const gateway = gatewayOf(model, way[0]!)
        if (gateway?.kind === 'internet' && (behaviour === 'table-routed' || !lacksAddress))
          return gateway.ref
        if (way[0] === 'internet' && !lacksAddress && (family === 6 || table.kind.hasPublicAddress))
          return 'the built-in way'
      }
    }
  }
  return null
}

function role(survey: Survey, subnet: SubnetModel): Finding[] {
  if (
    !subnet.up ||
    (subnet.role !== 'public' && subnet.role !== 'private' && subnet.role !== 'isolated') ||
    survey.tablesOf(subnet).length === 0
  )
    return []
  const door = hasDoor(survey, subnet)
  if ((door !== null) === (subnet.role === 'public')) return []
  const table = subnet.table >= 0 ? survey.model.tables[subnet.table]!.ref : null
  return [
    finding({
      code: 'odd-role',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [subnet.ref, table, door?.includes('/') ? door : null],
      sentence:
        door === null
          ? `${subnet.id} is declared public, but its routes lead to no door by which the internet could come in.`
          : `${subnet.id} is declared ${subnet.role}, but its routes lead straight to ${nameOf(door)}.`,
      question: {
        from: fromText(survey.model, subnet, survey.tablesOf(subnet)[0]!),
        to: internetText(survey.model, 4),
      },
      mend: {
        what: `declare ${subnet.id} ${door === null ? 'private' : 'public'}, if its routes are meant`,
        changes: [
          {
            op: 'replace',
            path: pointer('subnets', subnet.id, 'role'),
            value: door === null ? 'private' : 'public',
          },
        ],
      },
    }),
  ]
}

/** A subnet that relies on its network’s default table, while its neighbours of the same role have one of their own. */
export const checkDefaultTables = check(
  ({ model }) => presentOf(model, 'networks'),
  ({ model }, index) => {
    const network = model.networks[index]!
    if (network.behaviour === 'priority-routed') return []
    const members = network.subnets.map((one) => model.subnets[one]!)
    return members.flatMap((subnet) => {
      if (subnet.ownTable || subnet.table < 0) return []
      const neighbours = members.filter(
        (other) => other !== subnet && other.role === subnet.role && other.ownTable,
      )
      if (neighbours.length === 0) return []
      const tables = [...new Set(neighbours.map((other) => model.tables[other.table]!.id))]
      const [only] = tables
      return [
        finding({
          code: 'odd-default-table',
          severity: 'medium',
          anchor: subnet.ref,
          objects: [
            subnet.ref,
            model.tables[subnet.table]!.ref,
            ...tables.map((id) => `routeTables/${id}`),
          ],
          sentence: `${subnet.id} has no table of its own and uses its network’s default ${model.tables[subnet.table]!.id}, while ${listText(neighbours.map((one) => one.id))} of the same role use ${listText(tables)}.`,
          mend:
            tables.length === 1
              ? {
                  what: `associate ${subnet.id} with ${only}`,
                  changes: [
                    { op: 'add', path: pointer('subnets', subnet.id, 'routeTable'), value: only },
                  ],
                }
              : null,
        }),
      ]
    })
  },
)

/** Hosts that stand beside a firewall, in its subnet: nothing inspects what comes to them there. */
function besideFirewall({ model }: Survey, subnet: SubnetModel): Finding[] {
  const inline = derivedAndCompared(
    model,
    'subnets of inline firewalls',
    () =>
      new Set(
        model.firewalls.flatMap(({ source }) =>
          source.style === 'inline'
            ? Object.values(source.endpoints ?? {}).map(
                (one) => model.index.subnets.get(one.subnet) ?? -1,
              )
            : [],
        ),
      ),
    sameItems,
  )
  const routed = derivedAndCompared(
    model,
    'subnets of routed firewalls',
    () => new Set([...model.firewallAt.keys()].map((index) => model.interfaces[index]!.subnet)),
    sameItems,
  )
  if (subnet.role !== 'inspection' && !inline.has(subnet.index)) return []
  const hosts = subnet.interfaces.filter(
    (index) =>
      !model.firewallAt.has(index) &&
      !model.interfaces[index]!.forwards &&
      model.index.interfaces.has(model.interfaces[index]!.id),
  )
  if (
    hosts.length === 0 ||
    (subnet.role !== 'inspection' && !routed.has(subnet.index) && !inline.has(subnet.index))
  )
    return []
  const refs = hosts.map((index) => model.interfaces[index]!.ref)
  return [
    finding({
      code: 'odd-shared-inspection-subnet',
      severity: 'medium',
      anchor: subnet.ref,
      objects: [subnet.ref, ...refs],
      sentence: `${listText(refs.map(nameOf))} ${refs.length === 1 ? 'stands' : 'stand'} in ${subnet.id} beside a firewall, and ${refs.length === 1 ? 'is' : 'are'} not protected by it.`,
    }),
  ]
}

/** A way out that depends on another zone. */
function zones(survey: Survey, subnet: SubnetModel): Finding[] {
  const { model } = survey
  const out = new Map<string, Finding>()
  if (subnet.zone === null || !subnet.up) return []
  for (const table of survey.tablesOf(subnet)) {
    for (const range of table[4]) {
      if (range.hop.cause !== null || !range.hop.winners.some((route) => route.prefix.length === 0))
        continue
      const elements = [
        ...range.hop.winners.flatMap((route) => elementOf(model, subnet, route)),
        ...range.hop.ways.flat().flatMap((ref) => natZone(model, ref)),
      ]
      for (const { ref, zone } of elements) {
        if (zone === null || zone === subnet.zone) continue
        const price = model.estate.prices?.crossZoneGigabyte
        const made = finding({
          code: 'odd-crosses-zone',
          severity: 'low',
          anchor: subnet.ref,
          objects: [subnet.ref, subnet.table >= 0 ? model.tables[subnet.table]!.ref : null, ref],
          sentence: `The way out of ${subnet.id} in ${subnet.zone} depends on ${nameOf(ref)} in ${zone}: an outage there cuts it off.`,
          part: ref,
          mend: ref.startsWith('nats/') ? leaveInZone(model, subnet) : null,
          facts:
            price === undefined
              ? []
              : [
                  `every gigabyte across zones costs ${price}${model.estate.prices?.currency ? ` ${model.estate.prices.currency}` : ''}`,
                ],
          question: { from: fromText(model, subnet, table), to: 'internet' },
        })
        out.set(made.fingerprint, made)
      }
    }
  }
  return [...out.values()]
}

/** The appliance a route leads to, with its zone. */
function elementOf(
  model: Model,
  subnet: SubnetModel,
  { target }: RouteModel,
): { ref: string; zone: string | null }[] {
  const appliance = applianceAt(model, subnet.network, target)
  const home = model.subnets[appliance?.subnet ?? -1]
  return appliance && home ? [{ ref: appliance.ref, zone: home.zone }] : []
}

function natZone(model: Model, ref: string): { ref: string; zone: string | null }[] {
  if (!ref.startsWith('nats/')) return []
  const nat = model.nats[model.index.nats.get(nameOf(ref)) ?? -1]
  return nat && nat.subnet >= 0 ? [{ ref, zone: model.subnets[nat.subnet]!.zone }] : []
}

export const checkQuotas = checkWhole(({ model }) => {
  const { quotas: limits } = model.estate
  if (!limits) return []
  const out: Finding[] = []
  const use = (anchor: string, what: string, used: number, limit: number | undefined): void => {
    if (limit === undefined || used < limit * 0.9) return
    out.push(
      finding({
        code: 'odd-quota',
        severity: used > limit ? 'medium' : 'low',
        anchor,
        sentence: `${nameOf(anchor)} has ${used} ${what}, ${used > limit ? 'past' : used === limit ? 'all of' : 'nine tenths or more of'} the quota of ${limit}.`,
        part: what,
        facts: [`${used} of ${limit}`],
      }),
    )
  }
  for (const table of model.tables)
    if (model.index.routeTables.has(table.id))
      use(
        table.ref,
        'routes',
        (table.source.routes ?? []).filter((route) => (route.state ?? 'up') !== 'deleted').length,
        limits.routesPerTable,
      )
  for (const network of model.networks) {
    if (!model.index.networks.has(network.id)) continue
    use(
      network.ref,
      'peerings',
      model.attached.peerings.get(network.index)?.length ?? 0,
      limits.peeringsPerNetwork,
    )
  }
  const perRegion = new Map<string, number>()
  for (const [text, address] of model.estate.publicAddresses)
    if (address.region && model.index.publicAddresses.has(text))
      perRegion.set(address.region, (perRegion.get(address.region) ?? 0) + 1)
  for (const [region, count] of perRegion)
    use(`regions/${region}`, 'public addresses', count, limits.publicAddressesPerRegion)
  return out
})

/** A network’s own name servers that its subnets cannot ask. */
export const checkNameServers = check(
  ({ model }) => presentOf(model, 'networks'),
  (survey, index) => {
    const { model } = survey
    const network = model.networks[index]!
    return nameServersOf(model, index).flatMap((server) => {
      const cut = network.subnets
        .map((one) => model.subnets[one]!)
        .filter((subnet) => {
          if (!subnet.up) return false
          const [table] = survey.tablesOf(subnet)
          if (!table) return false
          const answer = trace(
            model,
            {
              from: fromText(model, subnet, table),
              to: formatAddress(server),
              protocol: 'udp',
              port: 53,
            },
            { evidence: false },
          )
          return !isRefusal(answer) && answer.verdict !== 'works'
        })
      if (cut.length === 0) return []
      const [first] = cut
      return [
        finding({
          code: 'odd-name-server',
          severity: 'medium',
          anchor: network.ref,
          objects: [...cut.map((subnet) => subnet.ref), network.ref],
          sentence: `${listText(cut.map((subnet) => subnet.id))} cannot reach ${formatAddress(server)}, the name server of ${network.id}, on port 53.`,
          part: formatAddress(server),
          ranges: [formatAddress(server)],
          question: {
            from: fromText(model, first!, survey.tablesOf(first!)[0]!),
            to: formatAddress(server),
            protocol: 'udp',
            port: 53,
          },
        }),
      ]
    })
  },
)

/** Names that have a private answer somewhere in the estate, and a public one in a network. */
export const checkNames = check(
  ({ model }) => presentOf(model, 'networks'),
  ({ model }, index) => {
    const network = model.networks[index]!
    if (network.subnets.length === 0) return []
    return [...privateNames(model)].flatMap(([name, by]) => {
      const answer = resolveName(model, network.index, name)
      const exposed =
        answer?.addresses.filter((address) => isPublic(address) && typeof address === 'number') ??
        []
      if (!answer || exposed.length === 0 || answer.answeredBy === by) return []
      return [
        finding({
          code: 'leak-name-public',
          severity: 'low',
          anchor: network.ref,
          objects: [by, network.ref, answer.answeredBy],
          sentence: `${name} has a private answer by ${nameOf(by)}, but in ${network.id} it resolves to ${listText(exposed.map(formatAddress))}, by ${nameOf(answer.answeredBy)}.`,
          part: name,
          ranges: exposed.map(formatAddress),
          mend: linkZone(model, by, network.id),
        }),
      ]
    })
  },
)

/** Names with a private answer, each with who gives it. */
const privateNames = (model: Model): ReadonlyMap<string, string> =>
  derivedAndCompared(
    model,
    'names with a private answer',
    () => findPrivateNames(model),
    (a, b) => sameItems(a.keys(), b.keys()) && sameItems(a.values(), b.values()),
  )

function findPrivateNames(model: Model): ReadonlyMap<string, string> {
  const { estate } = model
  const names = new Map<string, string>()
  for (const [id, zone] of estate.nameZones) {
    if (!model.index.nameZones.has(id)) continue
    for (const [name, addresses] of Object.entries(zone.records ?? {}))
      if (addresses.some((text) => !isPublicText(text))) names.set(name, `nameZones/${id}`)
  }
  for (const [id, endpoint] of estate.endpoints) {
    if (endpoint.style !== 'addressed' || !endpoint.privateNames || !model.index.endpoints.has(id))
      continue
    for (const name of estate.services.get(endpoint.service)?.names ?? [])
      names.set(name.replaceAll('*', 'any'), `endpoints/${id}`)
  }
  return names
}

const isPublicText = (text: string): boolean => isPublic(addressOf(text))
