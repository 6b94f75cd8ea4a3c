import type { CauseCode } from '../walk/causes'
import { nameOf } from '../walk/words'
import type { Branch, LaneJson } from './branch'

/**
 * Causes that are met at one place and decided before it: a route led the packet where it is not
 * taken.
 */
const LED_ASTRAY: ReadonlySet<CauseCode> = new Set<CauseCode>([
  ...(['private-destination', 'gateway-outbound-only', 'gateway-wrong-family'] as const),
  ...(['nat-wrong-family', 'nat-no-flow', 'peering-not-transitive'] as const),
  ...(['site-does-not-have-it', 'wrong-service', 'service-other-region'] as const),
  ...(['answer-from-other-address', 'return-bypasses-firewall', 'no-such-subnet'] as const),
])

/** The station whose decision makes a packet fail. */
export interface DecidedAt {
  readonly direction: 'forward' | 'return'
  /** Its place in its direction, from 0. */
  readonly station: number
  /** What it decided, where that is not where the packet is lost; else empty. */
  readonly says: string
}

/**
 * Which station of a branch decided that it fails: the one where it is lost, or the route table
 * that led it there. For an answer that goes round a firewall it is the first table on its way
 * back. Null for a branch that works. Linear in the stations.
 */
export function decidedAt(branch: Branch): DecidedAt | null {
  const { cause } = branch
  if (cause === null) return null
  const { direction, station } = cause
  const lane = direction === 'forward' ? branch.forward : branch.return
  const led = LED_ASTRAY.has(cause.code) && lane ? lookupOf(lane, cause) : null
  if (led === null) return { direction, station, says: '' }
  const { at, decision } = lane!.stations[led]!
  return { direction, station: led, says: `${nameOf(at)} leads it there: ${decision}.` }
}

function lookupOf(
  { stations }: LaneJson,
  { code, station }: { readonly code: CauseCode; readonly station: number },
): number | null {
  const before = stations
    .map(({ kind }, place) => ({ kind, place }))
    .filter(({ kind, place }) => kind === 'lookup' && place <= station)
  const found =
    code === 'return-bypasses-firewall'
      ? stations.findIndex(({ kind }) => kind === 'lookup')
      : (before.at(-1)?.place ?? -1)
  return found < 0 ? null : found
}
