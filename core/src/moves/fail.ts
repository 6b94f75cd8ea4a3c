import type { Change, Operation } from '../changes/operation'
import { pointer } from '../changes/pointer'
import type { Estate } from '../format/estate'
import { splitRef } from '../format/ref'

/** What an outage is as a change, and what of the zone it leaves up. */
export interface Outage {
  readonly ok: true
  readonly what: string
  readonly change: Change
  /** Subnets that span the zone's region, as `subnets/ID`: they stay up. */
  readonly leftOut: readonly string[]
}

export interface NoOutage {
  readonly ok: false
  readonly message: string
}

/** The sections whose objects can fail by themselves. */
const CAN_FAIL = [
  'nats',
  'gateways',
  'firewalls',
  'interfaces',
  'peerings',
  'transits',
  'endpoints',
  'frontends',
  'subnets',
] as const satisfies readonly (keyof Estate)[]
type CanFail = (typeof CAN_FAIL)[number]

/** Whether the objects of a section can fail by themselves. */
export const canFail = (section: string): boolean => CAN_FAIL.some((one) => one === section)

/**
 * The change that takes down what fails: `zone:ID`, `zone:REGION/ID` or `section/ID`, several at
 * once. An object that is down already is left as it is. Fails with a sentence where a name is
 * unknown, or a zone's name is that of two regions.
 */
export function outageOf(estate: Estate, failing: readonly string[]): Outage | NoOutage {
  const operations = new Map<string, Operation>()
  const leftOut: string[] = []
  for (const name of failing) {
    const made = name.startsWith('zone:')
      ? failZone(estate, name.slice('zone:'.length))
      : failObject(estate, name)
    if (typeof made === 'string') return { ok: false, message: made }
    for (const operation of made.change) operations.set(operation.path, operation)
    leftOut.push(...made.leftOut)
  }
  return {
    ok: true,
    what: `${failing.join(', ')} ${failing.length === 1 ? 'fails' : 'fail'}`,
    change: [...operations.values()],
    leftOut,
  }
}

type Made = Pick<Outage, 'change' | 'leftOut'>

function failObject(estate: Estate, ref: string): Made | string {
  const [section, id] = splitRef(ref)
  const known = CAN_FAIL.find((one) => one === section)
  if (known === undefined)
    return `"${ref}" cannot fail: name a zone as zone:ID, or an object of ${CAN_FAIL.join(', ')}`
  const object = estate[known].get(id)
  return object === undefined
    ? `there is no ${ref} in this estate`
    : { change: downAt(object, known, id), leftOut: [] }
}

/** Takes an object down, unless it is down or deleted already. */
function downAt(
  object: { readonly state?: string | undefined },
  ...path: readonly string[]
): Operation[] {
  if (object.state === 'down' || object.state === 'deleted') return []
  const op = object.state === undefined ? 'add' : 'replace'
  return [{ op, path: pointer(...path, 'state'), value: 'down' }]
}

function failZone(estate: Estate, name: string): Made | string {
  const zone = zoneOf(estate, name)
  if (typeof zone === 'string') return zone
  const down = new Set<string>()
  const leftOut: string[] = []
  for (const [id, subnet] of estate.subnets) {
    const region = subnet.region ?? estate.networks.get(subnet.network)?.region
    if (subnet.zone === zone.id) {
      if (region === undefined || region === zone.region || zone.only) down.add(id)
    } else if (subnet.zone === undefined && region === zone.region) leftOut.push(`subnets/${id}`)
  }
  const change: Operation[] = []
  for (const section of CAN_FAIL)
    for (const [id, object] of estate[section])
      change.push(...inZone[section](object as never, down, id))
  return { change, leftOut }
}

interface Zone {
  readonly id: string
  readonly region: string
  /** No other region has a zone of this name. */
  readonly only: boolean
}

function zoneOf(estate: Estate, name: string): Zone | string {
  const slash = name.indexOf('/')
  const id = slash < 0 ? name : name.slice(slash + 1)
  const having = [...estate.regions].filter(([, { zones }]) => zones?.includes(id))
  const regions = having.map(([region]) => region)
  const wanted = slash < 0 ? regions : regions.filter((one) => one === name.slice(0, slash))
  if (wanted.length === 0) {
    const all = [...estate.regions.values()].flatMap(({ zones }) => zones ?? [])
    return `there is no zone "${name}" in this estate; its zones are ${all.join(', ') || 'none'}`
  }
  if (wanted.length > 1)
    return `${wanted.join(' and ')} each have a zone "${id}"; name it as ${wanted.map((one) => `zone:${one}/${id}`).join(' or ')}`
  return { id, region: wanted[0]!, only: regions.length === 1 }
}

type InZone<S extends CanFail> = (
  object: Parameters<Parameters<Estate[S]['forEach']>[0]>[0],
  down: ReadonlySet<string>,
  id: string,
) => Operation[]

const unmoved = (): Operation[] => []

/** What of a section goes down with some subnets; what stands in others too goes on from those. */
const inZone: { readonly [S in CanFail]: InZone<S> } = {
  subnets: (subnet, down, id) => (down.has(id) ? downAt(subnet, 'subnets', id) : []),
  interfaces: (one, down, id) =>
    one.subnet !== undefined && down.has(one.subnet) ? downAt(one, 'interfaces', id) : [],
  nats: (nat, down, id) => {
    const subnet = nat.placement !== undefined && 'subnet' in nat.placement && nat.placement.subnet
    return typeof subnet === 'string' && down.has(subnet) ? downAt(nat, 'nats', id) : []
  },
  firewalls: (firewall, down, id) =>
    firewall.style !== 'inline'
      ? []
      : Object.entries(firewall.endpoints ?? {}).flatMap(([name, endpoint]) =>
          down.has(endpoint.subnet) ? downAt(endpoint, 'firewalls', id, 'endpoints', name) : [],
        ),
  frontends: (frontend, down, id) =>
    withoutFailed(frontend, frontend.subnets, down, ['frontends', id]),
  transits: (transit, down, id) =>
    Object.entries(transit.attachments ?? {}).flatMap(([name, attachment]) =>
      withoutFailed(attachment, attachment.subnets, down, ['transits', id, 'attachments', name]),
    ),
  gateways: unmoved,
  peerings: unmoved,
  endpoints: unmoved,
}

/** What stands in several subnets: down with all of them, else on from those that are left. */
function withoutFailed(
  object: { readonly state?: string | undefined },
  subnets: readonly string[] | undefined,
  down: ReadonlySet<string>,
  path: readonly string[],
): Operation[] {
  const left = (subnets ?? []).filter((id) => !down.has(id))
  if (subnets === undefined || left.length === subnets.length) return []
  return left.length === 0
    ? downAt(object, ...path)
    : [{ op: 'replace', path: pointer(...path, 'subnets'), value: left }]
}
