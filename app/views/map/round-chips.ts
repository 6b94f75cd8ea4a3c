import { CHIP, type Box, type PlacedNode, type Point } from './layout'

/** A line between subnets keeps to the middle of the room between them. */
const BESIDE = CHIP.pad / 2
const ABOVE = CHIP.gap / 2

const rowOf = ({ y, height }: Box): number => y + height / 2
/** At which height lines lie above a row of subnets, over the whole width of the network. */
const aboveOf = ({ y }: Box): number => y - ABOVE
const areInOneRow = (a: Box, b: Box): boolean => a.y < b.y + b.height && b.y < a.y + a.height

/**
 * From a subnet to a point at the border of its network's mark: between the other subnets, never
 * over one.
 */
export function wayOut(chip: Box, { x, width, chips }: PlacedNode, border: Point): Point[] {
  const isRight = border.x > x + width / 2
  const edge = isRight ? x + width - BESIDE : x + BESIDE
  const side = { x: isRight ? chip.x + chip.width : chip.x, y: rowOf(chip) }
  const isFree = chips.every(
    (other) => !areInOneRow(other, chip) || (isRight ? other.x <= chip.x : other.x >= chip.x),
  )
  const out = { x: edge, y: border.y }
  if (isFree) return [side, { x: edge, y: side.y }, out, border]
  const beside = side.x + (isRight ? BESIDE : -BESIDE)
  const above = aboveOf(chip)
  return [
    side,
    { x: beside, y: side.y },
    { x: beside, y: above },
    { x: edge, y: above },
    out,
    border,
  ]
}

/** From one subnet of a network to another, between those that stand there. */
export function wayAcross(from: Box, to: Box): Point[] {
  const isRight = to.x > from.x
  const start = { x: isRight ? from.x + from.width : from.x, y: rowOf(from) }
  const end = { x: isRight ? to.x : to.x + to.width, y: rowOf(to) }
  if (from.x === to.x) {
    const left = from.x - BESIDE
    return [start, { x: left, y: start.y }, { x: left, y: rowOf(to) }, { x: to.x, y: rowOf(to) }]
  }
  const [first, last] = isRight
    ? [start.x + BESIDE, end.x - BESIDE]
    : [start.x - BESIDE, end.x + BESIDE]
  const above = aboveOf(from)
  return [
    start,
    { x: first, y: start.y },
    { x: first, y: above },
    { x: last, y: above },
    { x: last, y: end.y },
    end,
  ]
}

/** Through a network that is passed, from one point at its border to another: under its name. */
export function wayThrough({ x, y, width }: PlacedNode, from: Point, to: Point): Point[] {
  const edgeOf = (point: Point): number =>
    point.x > x + width / 2 ? x + width - BESIDE : x + BESIDE
  const under = y + BESIDE
  const [a, b] = [edgeOf(from), edgeOf(to)]
  return a === b
    ? [from, { x: a, y: from.y }, { x: a, y: to.y }, to]
    : [from, { x: a, y: from.y }, { x: a, y: under }, { x: b, y: under }, { x: b, y: to.y }, to]
}
