import type { WayIn, WaysIn } from './ways-in'

/**
 * How a way in fares between two states: it is there in one alone, differs in what it lets through,
 * what it passes or the rules that let it in, or is the same in both.
 */
export type WayInFate = 'opened' | 'closed' | 'altered' | 'same'

export interface WayInBetween {
  readonly fate: WayInFate
  /** Null where nobody comes in by it before. */
  readonly before: WayIn | null
  /** Null where nobody comes in by it any more. */
  readonly after: WayIn | null
}

const FATES: readonly WayInFate[] = ['opened', 'closed', 'altered', 'same']

/**
 * The ways into a subnet in two states, who comes from and to whom beside each other: those that
 * differ first, each kind in the order of the answers. A subnet that a state has not has no ways.
 * Linear in the ways.
 */
export function waysInBetween(before: WaysIn | null, after: WaysIn | null): WayInBetween[] {
  const was = new Map((before?.ways ?? []).map((way) => [keyOf(way), way]))
  const now = new Map((after?.ways ?? []).map((way) => [keyOf(way), way]))
  const pairs = [...new Set([...now.keys(), ...was.keys()])].map((key) =>
    paired(was.get(key) ?? null, now.get(key) ?? null),
  )
  return FATES.flatMap((fate) => pairs.filter((pair) => pair.fate === fate))
}

const keyOf = ({ from, to }: WayIn): string => `${from} ${to}`

/** The packet that shows a way is one of many, so another one makes no difference. */
const contentOf = ({ ways, packets, rules }: WayIn): string =>
  JSON.stringify([ways, packets, rules])

function paired(before: WayIn | null, after: WayIn | null): WayInBetween {
  if (before === null) return { fate: 'opened', before, after }
  if (after === null) return { fate: 'closed', before, after }
  const fate = contentOf(before) === contentOf(after) ? 'same' : 'altered'
  return { fate, before, after }
}
