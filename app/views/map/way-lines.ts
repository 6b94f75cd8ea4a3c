import {
  marksOf,
  type Branch,
  type ChangedRow,
  type EstateGraph,
  type ExitWay,
  type WayKind,
} from '@salt-trail/core'
import { COLUMNS } from '~/views/exits/cells'
import { middle, type Box, type PlacedMap, type Point } from './layout'

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
    boxOf: (ref) => boxes.get(ref) ?? boxes.get(marks.get(ref) ?? ''),
    between: (a, b, by) => lines.get(`${a} ${b} ${by}`) ?? lines.get(`${a} ${b} null`),
  }
}

/**
 * Where a line that comes from, or goes to, some point touches a subnet's place: the side that
 * looks there.
 */
const side = (box: Box, towards: Point): Point => ({
  x: towards.x < box.x + box.width / 2 ? box.x : box.x + box.width,
  y: box.y + box.height / 2,
})

/** How far each lane lies beside the middle. */
const ASIDE: Record<WayLine['lane'], number> = {
  there: -2.5,
  before: -2.5,
  back: 2.5,
  now: 2.5,
  out: 0,
}

/**
 * The line of a way: along what joins the marks it passes, straight where nothing does. It goes
 * behind marks and into networks, up to the subnet. The two lanes lie beside each other.
 */
export function pathOf(line: WayLine, { markOf, boxOf, between }: Places): Point[] {
  const points: Point[] = []
  let last: { ref: string; mark: string } | null = null
  let by: string | null = null
  for (const ref of line.refs) {
    if (ref.startsWith('peerings/')) {
      by = ref
      continue
    }
    const mark = markOf(ref)
    const box = boxOf(ref)
    if (mark === undefined || !box) continue
    if (last === null) points.push(middle(box))
    else if (last.mark !== mark) {
      const joined = between(last.mark, mark, by) ?? []
      if (last.ref !== last.mark && joined.length > 0)
        points.push(side(boxOf(last.ref)!, joined[0]!))
      points.push(...joined)
      if (ref !== mark && joined.length > 0) points.push(side(box, joined.at(-1)!))
      points.push(middle(box))
    } else if (last.ref !== ref) points.push(middle(box))
    last = { ref, mark }
    by = null
  }
  const aside = ASIDE[line.lane]
  return points.map(({ x, y }) => ({ x: x + aside, y: y + aside }))
}
