import { formatAddress, type Address } from '../address/address'
import { formatPrefix, type Prefix } from '../address/prefix'
import { isPublic } from '../address/public'
import type { State } from './state'

/** One thing an element looked at in a packet, and whether it let it on. */
export interface Fact {
  readonly asks: string
  readonly found: string
  readonly holds: boolean
}

/**
 * The evidence of an element that decides by a few plain conditions: each of them, in the order in
 * which they are looked at.
 */
export interface FactsEvidence {
  readonly facts: readonly Fact[]
}

/** One condition that an element looked at. */
export const fact = (asks: string, found: string, holds: boolean): Fact => ({ asks, found, holds })
/** Prefixes as text. */
export const rangesText = (ranges: readonly Prefix[]): string =>
  ranges.map(formatPrefix).join(', ') || 'none'

/**
 * What a door looks at in an answer: its source must be what was asked, which the door turns it
 * back to if it turned it once.
 */
export function answerFacts(state: State, oneToOne: string): Fact[] {
  const latest = state.toUndo[0]
  const { src } = state.packet
  const turned = latest?.kind === 'destination' && latest.by === oneToOne && latest.after === src
  const holds = turned || (latest?.kind !== 'destination' && isPublic(src))
  return [
    fact(
      'the answer’s source is what was asked, or becomes it here',
      `${formatAddress(src)}${turned ? ` becomes ${formatAddress(latest.before)}` : ''}`,
      holds,
    ),
  ]
}

/** What a door to the internet looks at: the destination first, then what the source becomes. */
export function doorFacts(src: Address, dst: Address, becomes: string | null): Fact[] {
  const destination = fact('the destination is public', formatAddress(dst), isPublic(dst))
  if (!isPublic(dst)) return [destination]
  if (isPublic(src))
    return [
      destination,
      fact(
        'the source is public, or has a public address',
        `${formatAddress(src)} is public`,
        true,
      ),
    ]
  return [
    destination,
    fact(
      'the source is public, or has a public address',
      becomes ?? `${formatAddress(src)} is private and has none`,
      becomes !== null,
    ),
  ]
}
