import { parseAddress } from '../../address/address'
import { formatPrefix, isPrefixFault, parsePrefix, prefixFamily } from '../../address/prefix'
import type { Destination, EstateObject, Via } from '../estate'
import { pathText } from '../read/issues'
import type { Path } from '../read/source'
import type { Section } from '../schema/document'
import type { Checking } from './checking'

interface AnyRoute {
  readonly to: Destination
  readonly via: Via | string
  readonly state?: string
}

/** Routes that contradict each other or themselves, and NATs whose pools do not fit their rules. */
export function checkRouting(checking: Checking): void {
  const { estate } = checking
  for (const [id, table] of estate.routeTables) {
    const many =
      table.network !== undefined &&
      estate.networks.get(table.network)?.behaviour === 'priority-routed'
    checkRoutes(checking, { section: 'routeTables', id, path: ['routes'], many }, table.routes)
  }
  for (const [id, firewall] of estate.firewalls) {
    if (firewall.style === 'routed')
      checkRoutes(checking, { section: 'firewalls', id, path: ['routes'] }, firewall.routes)
  }
  for (const [id, transit] of estate.transits) {
    for (const [name, table] of Object.entries(transit.tables ?? {}))
      checkRoutes(
        checking,
        { section: 'transits', id, path: ['tables', name, 'routes'] },
        table.routes,
      )
  }
  for (const [id, nat] of estate.nats) checkNat(checking, id, nat)
}

/** Where a list of routes stands; `many` where it may hold several to one prefix. */
interface At {
  readonly section: Section
  readonly id: string
  readonly path: Path
  readonly many?: boolean
}

function checkRoutes(
  checking: Checking,
  { section, id, path: base, many = false }: At,
  routes: readonly AnyRoute[] | undefined,
): void {
  const seen = new Map<string, number>()
  routes?.forEach((route, index) => {
    const at = { section, id, path: [...base, index] }
    checkFamilies(checking, at, route)
    checkEndpointLabel(checking, at, route)
    const key = destinationKey(route.to)
    if (many || key === null || route.state === 'deleted') return
    const before = seen.get(key)
    if (before === undefined) seen.set(key, index)
    else
      checking.error(
        { section, id, path: [...at.path, 'to'] },
        'duplicate-route',
        `the route to ${key} is there twice (entries ${before + 1} and ${index + 1}); one table holds one route to a prefix`,
      )
  })
}

function checkFamilies({ error }: Checking, { section, id, path }: At, route: AnyRoute): void {
  if (
    typeof route.to !== 'string' ||
    typeof route.via !== 'object' ||
    route.via.address === undefined
  )
    return
  const to = parsePrefix(route.to)
  const hop = parseAddress(route.via.address)
  if (isPrefixFault(to) || hop === null || (prefixFamily(to) === 4) === (typeof hop === 'number'))
    return
  const [a, b] = prefixFamily(to) === 4 ? ['IPv4', 'IPv6'] : ['IPv6', 'IPv4']
  error(
    { section, id, path: [...path, 'via'] },
    'mixed-families',
    `the route to ${route.to} is ${a}, but its next hop ${route.via.address} is ${b}`,
  )
}

function checkEndpointLabel(
  { estate, declared, error }: Checking,
  { section, id, path }: At,
  route: AnyRoute,
): void {
  const text = typeof route.via === 'object' ? route.via.inspect : undefined
  if (text === undefined || (text.includes('/') && !declared('firewalls').has(text))) return
  const firewall = estate.firewalls.get(text)
  const labels = firewall?.style === 'inline' ? Object.keys(firewall.endpoints ?? {}) : []
  const written = labels.map((label) => `${text}/${label}`)
  const wanted = written.length > 0 ? `: one of ${written.join(', ')}` : ', as FIREWALL/LABEL'
  error(
    { section, id, path: [...path, 'via', 'inspect'] },
    'missing-endpoint-label',
    `${pathText(path)}: "inspect: ${text}" names no endpoint; name the firewall and the label of an endpoint${wanted}`,
    written.length === 1 ? written[0] : undefined,
  )
}

function checkNat({ error }: Checking, id: string, nat: EstateObject<'nats'>): void {
  const at = { section: 'nats', id } as const
  if (nat.allocation === 'automatic' && (nat.rules?.length ?? 0) > 0) {
    error(
      { ...at, path: ['rules'], part: 'key' },
      'rules-with-automatic-allocation',
      'rules choose fixed source addresses, which automatic allocation does not have; set "allocation: manual" or take the rules out',
    )
  }
  const pool = new Set(
    [...(nat.addresses ?? []), ...(nat.rules ?? []).flatMap((rule) => rule.use)].map(parseAddress),
  )
  nat.draining?.forEach((text, index) => {
    const address = parseAddress(text)
    if (address === null || pool.has(address)) return
    error(
      { ...at, path: ['draining', index] },
      'draining-unknown',
      `draining: ${text} is neither in "addresses" nor in any rule, so it can't be draining`,
    )
  })
}

/**
 * What two routes of a table must not have in common: the prefix in its one form, or the list's or
 * service's name.
 */
function destinationKey(to: Destination): string | null {
  if (typeof to === 'object')
    return to.prefixList !== undefined ? `prefix list ${to.prefixList}` : `service ${to.service}`
  const prefix = parsePrefix(to)
  return isPrefixFault(prefix) ? null : formatPrefix(prefix)
}
