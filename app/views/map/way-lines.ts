import {
  marksOf,
  type Branch,
  type ChangedRow,
  type EstateGraph,
  type ExitWay,
  type WayKind,
} from '@salt-trail/core'
import { COLUMNS } from '~/views/exits/cells'
import { middle, type Box, type PlacedMap, type PlacedNode, type Point } from './layout'
import { wayAcross, wayOut, wayThrough } from './round-chips'

/** A way drawn on the map: what it passes, in order. */
export interface WayLine {
  readonly lane: 'there' | 'back' | 'out' | 'before' | 'now'
  readonly kind: WayKind | null
  readonly refs: readonly string[]
  /** Whether its packets are lost at its end. */
  readonly isLost: boolean
}

/** Both ways of a trace, as far as packets come. `home` names the subnet of a host. */
export function traceLines(branch: Branch, home: (ref: string) => string): WayLine[] {
  const { cause } = branch
  const line = (
    lane: 'there' | 'back',
    direction: 'forward' | 'return',
    stations: Branch['forward']['stations'],
  ): WayLine => ({
    lane,
    kind: null,
    // A table is asked, not passed.
    refs: stations
      .filter(({ assumed, kind }) => !assumed && kind !== 'lookup')
      .map(({ at }) => home(at)),
    isLost: cause?.direction === direction,
  })
  return [
    line('there', 'forward', branch.forward.stations),
    ...(branch.return ? [line('back', 'return', branch.return.stations)] : []),
  ]
}

/**
 * The ways out of a subnet: each from it to the elements it passes, and to where it leads in the
 * end, if that is a mark.
 */
export const exitLines = (
  subnet: string,
  ways: readonly ExitWay[],
  end: string | null = null,
): WayLine[] =>
  ways
    .filter(({ kind }) => kind !== 'local')
    .map(({ kind, way, cause }) => ({
      lane: 'out',
      kind,
      refs: [subnet, ...way, ...(cause === null && end !== null ? [end] : [])],
      isLost: cause !== null,
    }))

/**
 * The ways out of a subnet that only one of two states has: those of the earlier one, and those of
 * the later one.
 */
export function changedLines({ subnet, before, now }: ChangedRow): WayLine[] {
  const without = (lines: WayLine[], others: WayLine[], lane: 'before' | 'now'): WayLine[] => {
    const known = new Set(others.map((line) => JSON.stringify(line)))
    return lines
      .filter((line) => !known.has(JSON.stringify(line)))
      .map((line) => ({ ...line, lane }))
  }
  return COLUMNS.flatMap(({ key }) => {
    const end = key === 'internet' ? 'internet' : null
    const [was, is] = [before, now].map((row) =>
      exitLines(`subnets/${subnet}`, row?.[key] ?? [], end),
    ) as [WayLine[], WayLine[]]
    return [...without(was, is, 'before'), ...without(is, was, 'now')]
  })
}

/** Where each object is on the map: its mark, and its own place there if it has one. */
export interface Places {
  readonly markOf: (ref: string) => string | undefined
  readonly boxOf: (ref: string) => Box | undefined
  /** A mark in which subnets stand. */
  readonly networkOf: (mark: string) => PlacedNode | undefined
  /**
   * The line that joins two marks, from the first to the second; `by` asks for the one of a
   * peering.
   */
  readonly between: (a: string, b: string, by: string | null) => readonly Point[] | undefined
}

export function placesOf(graph: EstateGraph, map: PlacedMap): Places {
  const marks = marksOf(graph)
  const boxes = new Map<string, Box>(
    map.nodes.flatMap((one) => [
      [one.node.ref, one] as const,
      ...one.chips.map((chip) => [chip.ref, chip] as const),
    ]),
  )
  const networks = new Map(
    map.nodes.flatMap((one) => (one.chips.length > 0 ? [[one.node.ref, one]] : [])),
  )
  const lines = new Map<string, readonly Point[]>()
  for (const { edge, points } of map.edges) {
    for (const key of [`${edge.from} ${edge.to} ${edge.by}`, `${edge.from} ${edge.to} null`])
      if (!lines.has(key)) lines.set(key, points)
    const back = [...points].reverse()
    for (const key of [`${edge.to} ${edge.from} ${edge.by}`, `${edge.to} ${edge.from} null`])
      if (!lines.has(key)) lines.set(key, back)
  }
  return {
    markOf: (ref) => marks.get(ref),
    networkOf: (mark) => networks.get(mark),
    boxOf: (ref) => boxes.get(ref) ?? boxes.get(marks.get(ref) ?? ''),
    between: (a, b, by) => lines.get(`${a} ${b} ${by}`) ?? lines.get(`${a} ${b} null`),
  }
}

/** How far each lane lies beside the middle. */
const ASIDE: Record<WayLine['lane'], number> = {
  there: -2.5,
  before: -2.5,
  back: 2.5,
  now: 2.5,
  out: 0,
}

/** A place that a way passes: an object, the mark it stands in, and that mark where it has subnets. */
interface Place {
  readonly ref: string
  readonly mark: string
  readonly box: Box
  readonly network: PlacedNode | undefined
}

/**
 * The line of a way: along what joins the marks it passes, straight where nothing does. It goes
 * behind marks and into networks, round the subnets there, up to the one it is about. The two lanes
 * lie beside each other.
 */
export function pathOf(line: WayLine, places: Places): Point[] {
  const points: Point[] = []
  let last: Place | null = null
  let by: string | null = null
  for (const ref of line.refs) {
    if (ref.startsWith('peerings/')) {
      by = ref
      continue
    }
    const mark = places.markOf(ref)
    const box = places.boxOf(ref)
    if (mark === undefined || !box) continue
    const place: Place = { ref, mark, box, network: places.networkOf(mark) }
    if (last === null) points.push(middle(box))
    else if (last.mark !== mark) points.push(...between(last, place, places, by, points))
    else if (last.ref === ref || ref === mark) continue
    else points.push(...(last.ref === mark ? [] : wayAcross(last.box, box)), middle(box))
    last = place
    by = null
  }
  const aside = ASIDE[line.lane]
  return points.map(({ x, y }) => ({ x: x + aside, y: y + aside }))
}

/** From one mark to another, and there to the middle of what is passed. */
function between(
  last: Place,
  place: Place,
  places: Places,
  by: string | null,
  before: readonly Point[],
): Point[] {
  const joined = places.between(last.mark, place.mark, by) ?? []
  const [first, end] = [joined[0] ?? middle(place.box), joined.at(-1) ?? middle(last.box)]
  const isIn = (one: Place): boolean => one.network !== undefined && one.ref !== one.mark
  const isPassed = last.network !== undefined && last.ref === last.mark
  return [
    ...(isIn(last) ? wayOut(last.box, last.network!, first) : []),
    ...(isPassed ? wayThrough(last.network!, before.at(-1)!, first) : []),
    ...joined,
    ...(isIn(place) ? wayOut(place.box, place.network!, end).reverse() : []),
    // A network that is only passed has no place of its own: the way goes on from its border.
    ...(place.network !== undefined && !isIn(place) ? [end] : [middle(place.box)]),
  ]
}
