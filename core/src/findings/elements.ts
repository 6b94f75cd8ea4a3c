import { formatAddress, lowestOf, type Address } from '../address/address'
import { formatPrefix, prefixOf, prefixesOverlap } from '../address/prefix'
import { rangesContain, rangeSetOf } from '../address/ranges'
import { pointer } from '../mend/change'
import { targetRef, type Model, type NatModel, type RouteModel } from '../model/model'
import { TCP } from '../packet/packet'
import { startState, walk } from '../walk/engine'
import { lowestInternetAddress } from '../walk/public-address'
import { finding, type Finding, type FindingCode } from './finding'
import { listText, nameOf, type Check, type Survey } from './survey'

/** What is said of one element by itself: translators, doors, lines, and what is in use by nothing. */
export const checkElements: Check = (survey) => [
  ...natsWithoutWayOut(survey),
  ...natCapacity(survey),
  ...overlaps(survey),
  ...partners(survey),
  ...idle(survey),
]

const liveNats = (model: Model): NatModel[] => model.nats.filter((nat) => model.index.nats.has(nat.id))

function natsWithoutWayOut({ model }: Survey): Finding[] {
  return liveNats(model).flatMap((nat) => {
    const subnet = model.subnets[nat.subnet]
    if (nat.kind !== 'public' || !nat.up || !subnet || nat.addresses.length === 0) return []
    const packet = { src: lowestOf(4), dst: lowestInternetAddress(model, 4), protocol: TCP, srcPort: 50000, dstPort: 443 }
    const context = { model, direction: 'forward', answers: null, about: 'routes', evidence: false, scope: null, beyondFaults: false } as const
    const lost = walk(context, startState(packet, { at: 'nat', nat: nat.index, fromSubnet: nat.subnet })).walks.find(
      (one) => one.cause?.code === 'nat-without-way-out',
    )
    if (!lost) return []
    const inner = lost.cause!.inner!
    return [
      finding({
        code: 'hole-nat-without-way-out',
        severity: 'critical',
        anchor: nat.ref,
        objects: [subnet.ref, ...(subnet.table >= 0 ? [model.tables[subnet.table]!.ref] : []), nat.ref, inner.object.includes('/') ? inner.object : null],
        sentence: `${nat.id} sits in ${subnet.id}, which itself has no way to the internet (${inner.code} at ${nameOf(inner.object)}): everything sent to it is lost.`,
        facts: [`its own packets are lost: ${inner.code} at ${inner.object}`],
        mend: natDoor(model, nat),
      }),
    ]
  })
}

/** A default route from the translator's subnet to an internet gateway of its network. */
function natDoor(model: Model, nat: NatModel): Finding['mend'] {
  const subnet = model.subnets[nat.subnet]!
  const door = model.attached.gateways.get(nat.network)?.find((gateway) => gateway.kind === 'internet' && gateway.up)
  if (!door || subnet.table < 0) return null
  const table = model.tables[subnet.table]!
  const at = (table.source.routes ?? []).findIndex((route) => route.to === '0.0.0.0/0')
  const value = { to: '0.0.0.0/0', via: { gateway: door.id } }
  const path = pointer('routeTables', table.id, 'routes', at >= 0 ? at : '-')
  return { what: `lead the default route of ${table.id} to ${door.id}`, changes: [{ op: at >= 0 ? 'replace' : 'add', path, value }] }
}

/** Source ports an address offers. */
const PORTS_PER_ADDRESS = 64512

function natCapacity(survey: Survey): Finding[] {
  const { model } = survey
  const hosts = new Map<string, Set<number>>()
  for (const subnet of survey.subnets) {
    for (const table of survey.tablesOf(subnet)) {
      for (const { outcome } of survey.toInternet(subnet, table, 4)) {
        for (const ref of new Set(outcome.ways.flat())) {
          if (!ref.startsWith('nats/')) continue
          let set = hosts.get(ref)
          if (!set) hosts.set(ref, (set = new Set()))
          for (const index of table.kind.interfaces) set.add(index)
        }
      }
    }
  }
  return liveNats(model).flatMap((nat) => {
    const served = hosts.get(nat.ref)?.size ?? 0
    const perHost = nat.source.portsPerHost ?? 1024
    const offered = nat.addresses.filter((address) => !nat.draining.has(address)).length * PORTS_PER_ADDRESS
    if (served * perHost <= offered || offered === 0) return []
    return [
      finding({
        code: 'odd-nat-capacity',
        severity: 'medium',
        anchor: nat.ref,
        sentence: `${nat.id} serves ${served} hosts with ${perHost} ports each: ${served * perHost}, more than the ${offered} its addresses offer.`,
        facts: [`${served} hosts`, `${perHost} ports for each`, `${offered} ports offered`],
      }),
    ]
  })
}

/** Networks that are connected and have ranges in common: only one of the two is reached. */
function overlaps({ model }: Survey): Finding[] {
  const pairs = new Map<string, { a: number; b: number; by: string }>()
  const connect = (a: number, b: number, by: string): void => {
    if (a < 0 || b < 0 || a === b) return
    const [low, high] = a < b ? [a, b] : [b, a]
    if (!pairs.has(`${low} ${high}`)) pairs.set(`${low} ${high}`, { a: low, b: high, by })
  }
  for (const peering of model.peerings) if (peering.up) connect(peering.a.network, peering.b.network, peering.ref)
  for (const transit of model.transits) {
    if (!transit.up) continue
    const networks = [...transit.attachmentOf.keys()]
    const spans = networks
      .flatMap((index) => model.networks[index]?.ranges.map((range) => ({ index, range })) ?? [])
      .sort((x, y) => (x.range.address < y.range.address ? -1 : 1))
    for (let i = 0; i < spans.length; i++)
      for (let k = i + 1; k < spans.length && prefixesOverlap(spans[i]!.range, spans[k]!.range); k++) connect(spans[i]!.index, spans[k]!.index, transit.ref)
  }
  return [...pairs.values()].flatMap(({ a, b, by }) => {
    const [one, other] = [model.networks[a]!, model.networks[b]!]
    const both = one.ranges.flatMap((range) =>
      other.ranges.filter((r) => typeof r.address === typeof range.address && prefixesOverlap(range, r)).map((r) => (r.length > range.length ? r : range)),
    )
    if (both.length === 0) return []
    return [
      finding({
        code: 'hole-overlap',
        severity: 'high',
        anchor: one.ref,
        objects: [one.ref, other.ref, by],
        sentence: `${one.id} and ${other.id} are connected by ${nameOf(by)} and both have ${listText(both.map(formatPrefix))}: each reaches its own there, and never the other’s.`,
        part: other.ref,
        ranges: both.map(formatPrefix),
      }),
    ]
  })
}

/** Partners with an allowlist: which addresses of ours they see. */
function partners(survey: Survey): Finding[] {
  const { model } = survey
  return [...model.estate.parties].flatMap(([id, party]) => {
    if (!model.index.parties.has(id) || (party.allowlist ?? []).length === 0 || (party.ranges ?? []).length === 0) return []
    const allowed = rangeSetOf((party.allowlist ?? []).map(prefixOf))
    const ref = `parties/${id}`
    const out: Finding[] = []
    const missing = new Map<string, Set<string>>()
    const changing = new Map<string, Set<string>>()
    const note = (map: Map<string, Set<string>>, key: string, objects: readonly string[]): void => {
      let set = map.get(key)
      if (!set) map.set(key, (set = new Set()))
      for (const object of objects) set.add(object)
    }
    const ranges = rangeSetOf((party.ranges ?? []).map(prefixOf))
    for (const subnet of survey.subnets) {
      for (const table of survey.tablesOf(subnet)) {
        if (!table.kind.interfaces.some((index) => survey.rulesAllow(index, ranges))) continue
        for (const { outcome } of survey.meet(subnet, table, 4, ranges)) {
          if (outcome.cause !== null) continue
          const by = [...new Set(outcome.ways.flat())].filter((one) => one.includes('/'))
          const automatic = by.filter((one) => one.startsWith('nats/') && model.estate.nats.get(nameOf(one))?.allocation === 'automatic')
          for (const seen of outcome.seenAs) {
            if (seen === 'unpredictable') note(changing, 'an address that nobody can foresee', [...by, subnet.ref])
            else {
              const address = prefixOf(`${seen}/${seen.includes(':') ? 128 : 32}`).address
              if (automatic.length > 0) note(changing, seen, [...automatic, subnet.ref])
              else if (isEphemeral(model, address, by)) note(changing, seen, [...by, subnet.ref])
              if (!rangesContain(allowed, address)) note(missing, seen, [...by, subnet.ref])
            }
          }
        }
      }
    }
    if (missing.size > 0) {
      const seen = [...missing.keys()]
      const prefix = (text: string): string => `${text}/${text.includes(':') ? 128 : 32}`
      out.push(
        finding({
          code: 'odd-not-allowlisted',
          severity: 'medium',
          anchor: ref,
          objects: [...[...missing.values()].flatMap((objects) => [...objects]), ref],
          sentence: `${id} sees us come from ${listText(seen)}, which its allowlist lacks.`,
          ranges: seen,
          mend: {
            what: `ask ${id} to add ${listText(seen)}, and note it here`,
            changes: seen.map((text) => ({ op: 'add', path: pointer('parties', id, 'allowlist', '-'), value: prefix(text) })),
          },
        }),
      )
    }
    for (const [seen, objects] of changing)
      out.push(
        finding({
          code: 'odd-changing-address',
          severity: 'medium',
          anchor: ref,
          objects: [...objects, ref],
          sentence: `${id} allows us by address, but sees ${seen} from ${listText([...objects].filter((o) => o.startsWith('subnets/')).map(nameOf))}, which may change by itself.`,
          part: seen,
          ranges: seen.includes(' ') ? [] : [seen],
        }),
      )
    return out
  })
}

/** A host's own public address that is not reserved goes with the host. */
function isEphemeral(model: Model, address: Address, by: readonly string[]): boolean {
  if (by.some((one) => /^(nats|firewalls)\//.test(one))) return false
  return model.publicOwners.get(address)?.kind === 'interface' && model.estate.publicAddresses.get(formatAddress(address))?.reserved === false
}

/** What is there and in use by nothing. */
function idle(survey: Survey): Finding[] {
  const { model } = survey
  const { estate } = model
  const routes: RouteModel[] = model.tables
    .filter((t) => model.index.routeTables.has(t.id))
    .flatMap((t) => [4, 6].flatMap((f) => t.routes[f as 4 | 6].groups.flatMap((g) => [...g.values])))
  const targets = new Set(routes.flatMap((route) => targetRef(route.target) ?? []))
  for (const subnet of survey.subnets)
    for (const group of [...subnet.learned[4].groups, ...subnet.learned[6].groups]) for (const route of group.values) targets.add(targetRef(route.target) ?? '')
  const cost = (price: number | undefined): string[] =>
    price === undefined ? [] : [`costs ${price}${estate.prices?.currency ? ` ${estate.prices.currency}` : ''} an hour`]
  const out: Finding[] = []
  const add = (code: FindingCode, ref: string, sentence: string, facts: readonly string[] = []): void => {
    const [section = '', id = ''] = [ref.slice(0, ref.indexOf('/')), nameOf(ref)]
    out.push(
      finding({
        code,
        severity: facts.length > 0 ? 'low' : 'note',
        anchor: ref,
        sentence,
        facts,
        mend: { what: `remove ${id}`, changes: [{ op: 'remove', path: pointer(section, id) }] },
      }),
    )
  }
  // Each asked once for all: an estate may have thousands of what asks.
  const withSubnets = new Set(survey.subnets.map((subnet) => subnet.network))
  const onDefault = new Set(survey.subnets.filter((subnet) => !subnet.ownTable).map((subnet) => subnet.network))
  const withPublicHosts = networksWithPublicHosts(model)
  const handedOn = routes.filter((route) => route.target.kind === 'address' || route.target.kind === 'interface')
  const tablesInUse = new Set([...survey.subnets.map((s) => s.table), ...model.gateways.map((g) => g.table)])
  const targetsInUse = new Set(routes.flatMap((route) => (tablesInUse.has(route.table) ? (targetRef(route.target) ?? []) : [])))
  const defaults = new Set([...estate.networks.values()].map((network) => network.defaultRouteTable))
  for (const table of model.tables) {
    if (!model.index.routeTables.has(table.id) || tablesInUse.has(table.index)) continue
    if (defaults.has(table.id) && onDefault.has(table.network)) continue
    add('idle-table', table.ref, `No subnet uses ${table.id}: its routes do nothing.`)
  }
  const attached = new Set([...estate.transits.values()].flatMap((transit) => Object.values(transit.attachments ?? {}).flatMap((a) => a.gateway ?? [])))
  for (const gateway of model.gateways) {
    if (!model.index.gateways.has(gateway.id) || targets.has(gateway.ref) || attached.has(gateway.id)) continue
    const unattached = gateway.network < 0
    const letsIn = gateway.kind === 'internet' && !unattached && withPublicHosts.has(gateway.network)
    const learnsIn = gateway.kind === 'private' && gateway.site !== null && !unattached && gateway.up
    if (!letsIn && !learnsIn)
      add('idle-gateway', gateway.ref, unattached ? `${gateway.id} is attached to no network.` : `No route leads to ${gateway.id}, and nothing comes in by it.`)
  }
  const attachedNats = new Set<string>()
  for (const subnet of survey.subnets)
    for (const table of survey.tablesOf(subnet))
      for (const { outcome } of survey.toInternet(subnet, table, 4)) for (const ref of outcome.ways.flat()) attachedNats.add(ref)
  for (const nat of liveNats(model)) {
    const used = attachedNats.has(nat.ref) || (nat.subnet >= 0 && targetsInUse.has(nat.ref))
    if (!used) add('idle-nat', nat.ref, `Nothing is sent to ${nat.id}.`, cost(estate.prices?.natHour))
  }
  const natAddresses = new Set(liveNats(model).flatMap((nat) => [...nat.addresses, ...nat.rules.flatMap((rule) => rule.use)]))
  for (const [text, address] of estate.publicAddresses) {
    if (!model.index.publicAddresses.has(text)) continue
    const value = prefixOf(`${text}/${text.includes(':') ? 128 : 32}`).address
    if (address.reserved && !model.publicOwners.has(value) && !natAddresses.has(value))
      add('idle-address', `publicAddresses/${text}`, `${text} is reserved, and nobody has it.`, cost(estate.prices?.publicAddressHour))
  }
  for (const [id] of estate.networks) {
    const index = model.index.networks.get(id)
    if (index !== undefined && !withSubnets.has(index)) add('idle-network', `networks/${id}`, `${id} has no subnet.`)
  }
  for (const peering of model.peerings) {
    if (!model.index.peerings.has(peering.id)) continue
    const ends = [peering.a.network, peering.b.network]
    const builtIn = ends.some((index) => model.networks[index] !== undefined && model.networks[index]!.behaviour !== 'table-routed')
    const hops = handedOn.some((route) => crosses(model, route, ends))
    if (!targets.has(peering.ref) && !builtIn && !hops) add('idle-peering', peering.ref, `No route leads over ${peering.id}.`)
  }
  for (const [id, endpoint] of estate.endpoints) {
    if (!model.index.endpoints.has(id)) continue
    const ref = `endpoints/${id}`
    const idleAddressed = endpoint.style === 'addressed' && (endpoint.interfaces ?? []).length === 0
    if ((endpoint.style === 'routed' && !targets.has(ref)) || idleAddressed)
      add(
        'idle-endpoint',
        ref,
        endpoint.style === 'routed' ? `No route leads to ${id}.` : `${id} has no interface, so nothing can reach it.`,
        cost(estate.prices?.endpointHour),
      )
  }
  return out
}

function networksWithPublicHosts(model: Model): ReadonlySet<number> {
  const hosts = model.interfaces.filter((one) => one.subnet >= 0 && one.publicAddress !== null).map((one) => model.subnets[one.subnet]!.network)
  const frontends = model.frontends.filter((one) => (model.estate.frontends.get(one.id)?.publicAddresses ?? []).length > 0).map((one) => one.network)
  return new Set([...hosts, ...frontends])
}

/** Whether a route's next hop is on the other side of a peering. */
function crosses(model: Model, route: RouteModel, ends: readonly number[]): boolean {
  const table = model.tables[route.table]
  if (!table || !ends.includes(table.network)) return false
  const other = ends.find((index) => index !== table.network)
  if (other === undefined || other < 0) return false
  return route.target.kind === 'address'
    ? model.networks[other]!.owners.has(route.target.address)
    : route.target.kind === 'interface' && model.subnets[model.interfaces[route.target.index]?.subnet ?? -1]?.network === other
}
