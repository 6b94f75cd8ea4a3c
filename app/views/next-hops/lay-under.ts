import {
  formatAddress,
  nextAddress,
  parseAddress,
  type Address,
  type HopRangeJson,
} from '@salt-trail/core'

/** A span of destinations for which neither of two subnets changes its way. */
export interface Piece {
  readonly from: string
  readonly to: string
  readonly a: HopRangeJson
  readonly b: HopRangeJson
}

/**
 * Two subnets' ranges of one family laid one under the other; of them the spans in which they fare
 * differently. Both lists are in order and leave nothing out, as the server makes them.
 */
export function differingPieces(
  a: readonly HopRangeJson[],
  b: readonly HopRangeJson[],
  fareA: (range: HopRangeJson) => string,
  fareB: (range: HopRangeJson) => string,
): Piece[] {
  const out: Piece[] = []
  let [i, k] = [0, 0]
  for (
    let at: Address | null = a[0] ? parseAddress(a[0].from) : null;
    at !== null && a[i] && b[k];
  ) {
    const [one, other] = [a[i]!, b[k]!]
    const [endA, endB] = [parseAddress(one.to)!, parseAddress(other.to)!]
    const to: Address = endA < endB ? endA : endB
    if (fareA(one) !== fareB(other)) {
      const last = out.at(-1)
      const goesOn =
        last &&
        fareA(last.a) === fareA(one) &&
        fareB(last.b) === fareB(other) &&
        nextAddress(parseAddress(last.to)!) === at
      if (goesOn) out[out.length - 1] = { ...last, to: formatAddress(to) }
      else out.push({ from: formatAddress(at), to: formatAddress(to), a: one, b: other })
    }
    if (endA <= to) i++
    if (endB <= to) k++
    at = nextAddress(to)
  }
  return out
}

/**
 * The outcome of a range in a form in which two subnets can be compared: without the name of the
 * subnet or host itself.
 */
export function fareWithout(own: readonly string[]): (range: HopRangeJson) => string {
  const name = (ref: string): string => (own.includes(ref) ? 'own' : ref)
  return ({ way, cause, seenAs }) => {
    const lost =
      cause === null
        ? ''
        : `${cause.code} ${name(cause.object)} ${cause.inner ? `${cause.inner.code} ${name(cause.inner.object)}` : ''}`
    return `${cause === null ? way.join() : ''}|${lost}|${seenAs.join()}`
  }
}
