import type { Random } from '../../core/test/random/random'
import type { Draft, Json } from './draft'
import {
  address6,
  FAULT_PERCENT,
  networkRange,
  networkRange6,
  publicAddress,
  REGIONS,
  subnetAddress,
  subnetRange,
  subnetRange6,
  ZONES,
  zonesOf,
  type Size,
} from './plan'

/** What a network is for: most are spokes behind their region's hub. */
export interface Place {
  readonly number: number
  readonly id: string
  readonly region: string
  readonly isHub: boolean
  readonly behaviour: 'table-routed' | 'default-open' | 'priority-routed'
}

/** The first network of each region is its hub. */
export function placeOf(number: number, networks: number): Place {
  const regions = REGIONS.slice(0, Math.min(REGIONS.length, networks))
  const region = regions[number % regions.length]!
  const isHub = number < regions.length
  const behaviour = isHub
    ? 'table-routed'
    : (
        ['table-routed', 'table-routed', 'table-routed', 'default-open', 'priority-routed'] as const
      )[number % 5]!
  return {
    number,
    id: isHub ? `${region}-hub` : `${region}-spoke-${number}`,
    region,
    isHub,
    behaviour,
  }
}

export const hubOf = (region: string): string => `${region}-hub`
const hasV6 = (place: Place): boolean =>
  place.number % 3 === 0 && place.behaviour !== 'priority-routed'

/**
 * Subnets in three kinds, by turns: the first per zone are public, the next private, the last
 * isolated.
 */
const roleOf = (subnet: number): 'public' | 'private' | 'isolated' =>
  subnet < ZONES ? 'public' : subnet % 7 === 6 ? 'isolated' : 'private'

/** One network with its subnets, hosts, rule sets, tables, doors and translators. */
export function addNetwork(
  draft: Draft,
  r: Random,
  size: Size,
  place: Place,
  others: readonly Place[],
): void {
  const { id, number, region, behaviour } = place
  const v6 = hasV6(place)
  draft.put('networks', id, {
    region,
    ranges: [networkRange(number), ...(v6 ? [networkRange6(number)] : [])],
    behaviour,
    defaultRouteTable: `${id}-t0`,
    ...(behaviour === 'default-open' ? { implicitEgress: number % 2 === 0 } : {}),
    tags: { scope: number % 10 === 0 ? 'cards' : 'general' },
  })
  draft.put('gateways', `${id}-door`, { kind: 'internet', network: id })
  if (v6) draft.put('gateways', `${id}-six`, { kind: 'outbound-v6', network: id })
  for (let zone = 0; zone < ZONES; zone++) addNat(draft, r, place, zone)
  for (let table = 0; table < size.tablesPerNetwork; table++)
    addTable(draft, r, size, place, table, others, v6)
  for (let subnet = 0; subnet < size.subnetsPerNetwork; subnet++)
    addSubnet(draft, r, size, place, subnet, v6)
}

function addNat(
  draft: Draft,
  r: Random,
  { id, number, region, behaviour }: Place,
  zone: number,
): void {
  const nat = `${id}-nat-${zone + 1}`
  const addresses = [
    publicAddress(number * 32 + zone * 2),
    publicAddress(number * 32 + zone * 2 + 1),
  ]
  if (behaviour !== 'table-routed') {
    if (zone === 0) draft.put('nats', nat, { network: id, placement: { region }, addresses })
    return
  }
  const stranded = r.chance(FAULT_PERCENT)
  if (stranded) draft.plant('hole-nat-without-way-out', `nats/${nat}`)
  draft.put('nats', nat, {
    network: id,
    // A translator in a private subnet has itself for its way out.
    placement: { subnet: `${id}-s${stranded ? ZONES + zone : zone}` },
    addresses,
    ...(number % 4 === 0
      ? { rules: [{ order: 10, to: ['198.51.100.80/28'], use: [addresses[1]] }] }
      : {}),
  })
}

/**
 * Table 0 is for public subnets, the next ones for the private ones of a zone, the others for
 * isolated ones.
 */
function addTable(
  draft: Draft,
  r: Random,
  size: Size,
  place: Place,
  table: number,
  others: readonly Place[],
  v6: boolean,
): void {
  const { id, region, behaviour, isHub } = place
  const ref = `${id}-t${table}`
  const zone = ((table - 1 + ZONES) % ZONES) + 1
  const isolated = table > ZONES
  const priority = behaviour === 'priority-routed'
  const open = behaviour === 'default-open'
  const routes: Json[] = []
  const out = table === 0 || priority ? { gateway: `${id}-door` } : { nat: `${id}-nat-${zone}` }
  const dead = r.chance(FAULT_PERCENT * 3)
  if (!isolated && !open)
    routes.push({ to: '0.0.0.0/0', via: dead ? { nat: `${id}-nat-gone` } : out })
  if (!isolated && !open && dead) draft.plant('hole-dead-target', `routeTables/${ref}`)
  if (v6 && !isolated && !open) {
    const leaks = table > 0 && r.chance(FAULT_PERCENT * 3)
    if (leaks) draft.plant('leak-ipv6', `routeTables/${ref}`)
    routes.push({ to: '::/0', via: { gateway: leaks || table === 0 ? `${id}-door` : `${id}-six` } })
  }
  if (!isHub) routes.push({ to: '10.0.0.0/8', via: { transit: `${region}-router` } })
  if (table % 2 === 1)
    routes.push({ to: { service: `${region}-store` }, via: { endpoint: `${id}-store` } })
  if (!isolated)
    routes.push({ to: { prefixList: 'harbours' }, via: { transit: `${region}-router` } })
  const firstOther = r.number(others.length)
  for (let i = 0; routes.length < size.routesPerTable; i++) {
    if (i < others.length - 1) {
      const other = others[(firstOther + i) % others.length]!
      if (other.id === id) continue
      routes.push({
        to: networkRange(other.number),
        via: i % 11 === 10 ? 'drop' : { transit: `${region}-router` },
        ...(priority ? { priority: 100 + i } : {}),
      })
    } else {
      // Few networks have too few others to fill a table: the rest goes to made-up places beyond
      // the sites.
      routes.push({
        to: `172.${24 + (i >> 8)}.${i & 255}.0/24`,
        via: i % 3 === 0 ? 'drop' : { transit: `${region}-router` },
      })
    }
  }
  draft.put('routeTables', ref, { network: id, ...(isHub ? { learn: 'all' } : {}), routes })
  if (table === 1)
    draft.put('endpoints', `${id}-store`, {
      style: 'routed',
      service: `${region}-store`,
      network: id,
    })
}

function addSubnet(
  draft: Draft,
  r: Random,
  size: Size,
  place: Place,
  subnet: number,
  v6: boolean,
): void {
  const { id, number, region, behaviour } = place
  const sid = `${id}-s${subnet}`
  const role = roleOf(subnet)
  const zone = subnet % ZONES
  const table =
    role === 'public'
      ? 0
      : role === 'private'
        ? 1 + zone
        : Math.min(ZONES + 1 + (subnet % 2), size.tablesPerNetwork - 1)
  const direct = role === 'private' && behaviour === 'table-routed' && r.chance(FAULT_PERCENT)
  if (direct) draft.plant('leak-direct', `subnets/${sid}`)
  const listed = subnet % 5 === 0
  const short = listed && r.chance(FAULT_PERCENT * 5)
  if (short) draft.plant('hole-ephemeral', `subnets/${sid}`)
  draft.put('subnets', sid, {
    network: id,
    ranges: [subnetRange(number, subnet), ...(v6 ? [subnetRange6(number, subnet)] : [])],
    zone: zonesOf(region)[zone],
    role,
    ...(behaviour === 'priority-routed'
      ? {}
      : { routeTable: `${id}-t${direct ? 0 : Math.min(table, size.tablesPerNetwork - 1)}` }),
    ...(listed ? { boundary: short ? 'short-list' : 'wide-list' } : {}),
    ...(subnet % 9 === 4 ? { privateServices: 'all' } : {}),
  })
  addRuleSet(draft, r, size, place, subnet, role)
  for (let host = 0; host < (subnet % 2 === 0 ? 3 : 2); host++) {
    const hasPublic = role === 'public' && host === 0
    draft.put('interfaces', `${sid}-h${host}`, {
      subnet: sid,
      addresses: [
        subnetAddress(number, subnet, 10 + host),
        ...(v6 ? [address6(number, subnet, 10 + host)] : []),
      ],
      ruleSets: [`${sid}-rules`],
      ...(hasPublic || (direct && host === 0)
        ? { publicAddress: publicAddress(number * 32 + 8 + subnet) }
        : {}),
      tags: { tier: ['web', 'app', 'data'][subnet % 3]! },
    })
  }
}

function addRuleSet(
  draft: Draft,
  r: Random,
  size: Size,
  { id, number }: Place,
  subnet: number,
  role: string,
): void {
  const sid = `${id}-s${subnet}`
  const rules: Json[] = [
    { direction: 'out', protocol: 'any', peers: ['any'] },
    {
      direction: 'in',
      protocol: 'tcp',
      ports: [443],
      peers: [role === 'public' ? 'any' : '10.0.0.0/8'],
    },
  ]
  if (role === 'public' && r.chance(FAULT_PERCENT * 2)) {
    rules.push({ direction: 'in', protocol: 'tcp', ports: [22], peers: ['internet'] })
    draft.plant('open-to-internet', `ruleSets/${sid}-rules`)
  }
  for (let i = 0; rules.length < size.rulesPerSubnet; i++) {
    const peer =
      i % 6 === 5
        ? { ruleSet: `${id}-s${(subnet + i) % size.subnetsPerNetwork}-rules` }
        : networkRange((number + i * 7) % 8000)
    rules.push({
      direction: 'in',
      protocol: i % 4 === 0 ? 'udp' : 'tcp',
      ports: [1024 + ((number * 31 + subnet * 7 + i) % 40000)],
      peers: [peer],
    })
  }
  draft.put('ruleSets', `${sid}-rules`, { rules })
}
