import {
  containsPrefix,
  formatPrefix,
  isPrefixFault,
  parsePrefix,
  prefixesOverlap,
  prefixOf,
  type Prefix,
} from '../address/prefix'
import { carve } from '../addresses/space'
import { pointer, type Operation } from '../changes/index'
import type { Subnet } from '../format/estate'
import { freeId } from '../mend/situation'
import type { Model } from '../model/model'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'

export interface CarveMove {
  readonly network: string
  readonly range: string
  /** The length of each part in bits. */
  readonly length: number
  /** A subnet is made for each role in each zone, roles first: `web north-1`, `web north-2`. */
  readonly roles: readonly NonNullable<Subnet['role']>[]
  readonly zones: readonly string[]
}

/**
 * Carves a range of a network into equal subnets by zone and role. Parts that collide with a
 * subnet, a planned range, a site or another network are passed over; the lowest free ones are
 * taken.
 */
export function carveRange(
  model: Model,
  { network, range, length, roles, zones }: CarveMove,
): Moved | NotMoved {
  const { estate } = model
  const own = estate.networks.get(network)
  if (!own) return notMoved(`there is no network "${network}" in this estate`)
  const within = parsePrefix(range)
  if (isPrefixFault(within)) return notMoved(`"${range}" is no prefix in CIDR form`)
  const wanted = roles.flatMap((role) =>
    (zones.length ? zones : [null]).map((zone) => ({ role, zone })),
  )
  if (wanted.length === 0) return notMoved('choose at least one role')
  let parts
  try {
    ;({ parts } = carve(within, length))
  } catch (error) {
    return notMoved(error instanceof RangeError ? error.message : String(error))
  }
  const taken = takenRanges(model, network)
  const free = parts
    .map(({ prefix }) => prefixOf(prefix))
    .filter((part) => !taken.some((one) => prefixesOverlap(one, part)))
  if (free.length < wanted.length)
    return notMoved(
      `${wanted.length} parts of /${length} are wanted, and ${free.length} of the first ` +
        `${parts.length} in ${range} collide with nothing: take a longer length or another range`,
    )
  const operations: Operation[] = []
  const holds = (own.ranges ?? []).some((text) => containsPrefix(prefixOf(text), within))
  if (!holds)
    operations.push(
      own.ranges
        ? { op: 'add', path: pointer('networks', network, 'ranges', '-'), value: range }
        : { op: 'add', path: pointer('networks', network, 'ranges'), value: [range] },
    )
  const named = new Map<string, unknown>(estate.subnets)
  const names = wanted.map(({ role, zone }, at) => {
    const id = freeId(named, [network, role, zone].filter(Boolean).join('-'))
    const subnet: Subnet = {
      network,
      ranges: [formatPrefix(free[at]!)],
      role,
      ...(zone === null ? {} : { zone }),
    }
    operations.push({ op: 'add', path: pointer('subnets', id), value: subnet })
    named.set(id, subnet)
    return id
  })
  return moved(
    `carve ${range} into ${listed(names)}`,
    operations,
    holds ? [] : [`${range} becomes a range of ${network}`],
  )
}

/** Every range that a new subnet of a network must not have. */
function takenRanges({ estate }: Model, network: string): Prefix[] {
  const texts = [
    ...[...estate.subnets.values()].flatMap(({ ranges }) => ranges),
    ...[...estate.networks].flatMap(([id, { ranges }]) => (id === network ? [] : (ranges ?? []))),
    ...[...estate.sites.values()].flatMap(({ ranges }) => ranges ?? []),
    ...[...estate.plannedRanges.values()].flatMap(({ ranges }) => ranges),
  ]
  return texts.map(prefixOf)
}
