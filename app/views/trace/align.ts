import type { Branch, StationJson } from '@salt-trail/core'

/** Consecutive stations at one object: one place on the strip. */
export interface Stop {
  readonly at: string
  readonly stations: readonly StationJson[]
  /** The place of its first station in its direction. */
  readonly first: number
}

/** One column of the strip; a direction that does not pass it has a gap there. */
export interface Column {
  readonly there: Stop | null
  readonly back: Stop | null
}

/** The column in which a station of a lane stands; −1 where it has none. */
export function columnOf(
  columns: readonly Column[],
  lane: 'there' | 'back',
  station: number,
): number {
  return columns.findIndex((column) => {
    const stop = column[lane]
    return stop !== null && station >= stop.first && station < stop.first + stop.stations.length
  })
}

const APPLIANCES: ReadonlySet<string> = new Set(['firewall', 'frontend'])
const isRules = (station: StationJson): boolean => station.kind === 'rules'

/**
 * Consecutive stations at one object are one stop; the rules at an appliance's interfaces belong to
 * the appliance's.
 */
export function stopsOf(stations: readonly StationJson[]): Stop[] {
  const stops: { at: string; stations: StationJson[]; first: number }[] = []
  stations.forEach((station, index) => {
    const last = stops.at(-1)
    const intoAppliance =
      last !== undefined && APPLIANCES.has(station.kind) && last.stations.every(isRules)
    const outOfAppliance =
      last !== undefined && isRules(station) && APPLIANCES.has(last.stations.at(-1)!.kind)
    if (last && (last.at === station.at || intoAppliance || outOfAppliance)) {
      last.stations.push(station)
      if (intoAppliance) last.at = station.at
    } else stops.push({ at: station.at, stations: [station], first: index })
  })
  return stops
}

const isLookup = (stop: Stop): boolean =>
  stop.stations.every((station) => station.kind === 'lookup')

/**
 * Lays the way there and the way back side by side, the way back from right to left: the heaviest
 * common run of places stands in shared columns, what only one of them passes has a gap beside it.
 * An element that packets pass weighs more than a table that is asked, and look-ups between the
 * same places share a column, since each direction asks its own table.
 */
export function alignLanes(branch: Branch): Column[] {
  const there = stopsOf(branch.forward.stations)
  const back = stopsOf(branch.return?.stations ?? []).reverse()
  const common = heaviestCommon(there, back)
  const columns: Column[] = []
  let i = 0
  let k = 0
  for (const [a, b] of [...common, [there.length, back.length] as const]) {
    columns.push(...between(there.slice(i, a), back.slice(k, b)))
    if (a < there.length) columns.push({ there: there[a]!, back: back[b]! })
    i = a + 1
    k = b + 1
  }
  return columns
}

function between(there: readonly Stop[], back: readonly Stop[]): Column[] {
  const waiting = [...back]
  const columns: Column[] = []
  for (const stop of there) {
    const partner = isLookup(stop) ? waiting.findIndex(isLookup) : -1
    if (partner < 0) columns.push({ there: stop, back: null })
    else {
      columns.push(...waiting.splice(0, partner).map((alone) => ({ there: null, back: alone })))
      columns.push({ there: stop, back: waiting.shift()! })
    }
  }
  return [...columns, ...waiting.map((stop) => ({ there: null, back: stop }))]
}

function heaviestCommon(a: readonly Stop[], b: readonly Stop[]): (readonly [number, number])[] {
  const best = Array.from({ length: a.length + 1 }, () => new Array<number>(b.length + 1).fill(0))
  const weight = (i: number, k: number): number =>
    a[i]!.at !== b[k]!.at ? 0 : isLookup(a[i]!) ? 1 : 4
  for (let i = a.length - 1; i >= 0; i--) {
    for (let k = b.length - 1; k >= 0; k--) {
      const shared = weight(i, k)
      best[i]![k] = Math.max(
        best[i + 1]![k]!,
        best[i]![k + 1]!,
        shared > 0 ? shared + best[i + 1]![k + 1]! : 0,
      )
    }
  }
  const pairs: (readonly [number, number])[] = []
  for (let i = 0, k = 0; i < a.length && k < b.length;) {
    const shared = weight(i, k)
    if (shared > 0 && best[i]![k] === shared + best[i + 1]![k + 1]!) pairs.push([i++, k++])
    else if (best[i + 1]![k]! >= best[i]![k + 1]!) i++
    else k++
  }
  return pairs
}
