import { explainCause, type Cause, type ExitWay, type WayKind } from '@salt-trail/core'
import { wayInOrder } from '~/objects/way-element'
import type { ColumnKey, Direction } from './cells'

/** Each kind of way in a word or two. */
export const WAY_WORDS: Readonly<Record<WayKind, string>> = {
  translated: 'translated',
  inspected: 'inspected by a firewall',
  direct: 'direct',
  'private-line': 'private line',
  service: 'service',
  local: 'local',
  lost: 'lost',
}

/** The destinations of a way in words: some prefixes, or all, or the rest of a family. */
export function rangesText(way: ExitWay, alone: boolean, column: ColumnKey): string {
  if (way.ranges === null)
    return `IPv${way.family}${alone || column === 'sameNetwork' ? '' : ', the rest'}`
  const shown = way.ranges.slice(0, 3).join(', ')
  const more = way.ranges.length - 3 + way.moreRanges
  return more > 0 ? `${shown} and ${more} more` : shown
}

/** The way in words: what is passed in order, or why the packets are lost. */
export function passedText(way: ExitWay): string {
  if (way.cause) return explainCause(way.cause as Pick<Cause, 'code' | 'object' | 'inner'>)
  if (way.kind === 'local') return 'handed over inside the network'
  const branches = way.branches > 0 ? `, and ${way.branches} more of equal cost` : ''
  return `${wayInOrder(way.way)}${branches}`
}

export function seenText(way: ExitWay): string {
  if (way.cause || way.kind === 'local') return ''
  if (way.seenAs.length === 0) return 'its own address'
  return way.seenAs
    .map((address) => (address === 'unpredictable' ? 'an address nobody can foresee' : address))
    .join(', ')
}

/** One sentence over a peek: how many ways, and how many of them are lost. */
export function headline(
  subnet: string,
  ways: readonly ExitWay[],
  where: string,
  direction: Direction = 'leaving',
): string {
  const lost = ways.filter((way) => way.cause !== null).length
  const count =
    ways.length === 0
      ? direction === 'entering'
        ? 'nothing comes in'
        : 'nothing to reach'
      : ways.length === 1
        ? 'one way'
        : `${words(ways.length)} ways`
  return `${subnet} ${where}: ${count}${lost === 0 ? '' : lost === ways.length ? ', lost' : `, ${words(lost)} of them lost`}`
}

const words = (n: number): string =>
  ['no', 'one', 'two', 'three', 'four', 'five', 'six'][n] ?? String(n)
