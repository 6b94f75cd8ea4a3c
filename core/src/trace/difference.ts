import type { Branch, StationJson } from './branch'

/** Where two paths part: the first place at which they do not decide the same. */
export interface Difference {
  readonly direction: 'forward' | 'return'
  /** The station in each path; null where that path has none left. */
  readonly stations: readonly [number | null, number | null]
  readonly says: readonly [string, string]
}

/**
 * The first difference of two paths, from their second station on: the sources are different
 * anyway. Stations are the same if they are of one kind, and what they stand at is the same or
 * both lie at the ends; a decision differs if one fails there and the other does not.
 */
export function firstDifference(a: Branch, b: Branch): Difference | null {
  for (const direction of ['forward', 'return'] as const) {
    const [left, right] = [stationsOf(a, direction), stationsOf(b, direction)]
    for (let i = 1; i < Math.max(left.length, right.length); i++) {
      const [x, y] = [left[i], right[i]]
      if (x && y && same(x, y) && failsAt(a, direction, i) === failsAt(b, direction, i)) continue
      return {
        direction,
        stations: [x ? i : null, y ? i : null],
        says: [saysOf(a, x, direction, i), saysOf(b, y, direction, i)],
      }
    }
  }
  return null
}

const stationsOf = (branch: Branch, direction: 'forward' | 'return'): readonly StationJson[] =>
  ((direction === 'forward' ? branch.forward : branch.return)?.stations ?? []).filter(
    (station) => !station.assumed,
  )

const failsAt = ({ cause }: Branch, direction: string, station: number): boolean =>
  cause?.direction === direction && cause.station === station

/**
 * Rules and deliveries stand at hosts, which two questions seldom share: there the words count.
 * Elsewhere the object does.
 */
function same(x: StationJson, y: StationJson): boolean {
  if (x.kind !== y.kind) return false
  if (x.kind === 'rules') return x.decision === y.decision
  if (x.kind === 'delivery' || x.kind === 'source') return true
  return x.at === y.at && (x.kind !== 'lookup' || x.decision === y.decision)
}

function saysOf(
  branch: Branch,
  station: StationJson | undefined,
  direction: 'forward' | 'return',
  at: number,
): string {
  if (!station)
    return direction === 'return' && branch.return === null
      ? 'nothing arrives, so there is no answer'
      : 'has ended before'
  const fails = failsAt(branch, direction, at) ? `, ${branch.cause!.code}` : ''
  return `${station.at}: ${station.decision}${fails}`
}
