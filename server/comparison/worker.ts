import {
  budgetOf,
  candidatesOf,
  compareEstates,
  compareWays,
  compile,
  hopMemo,
  packetsAmong,
  shareWith,
  tellPackets,
  type ObjectChange,
  type ToldPackets,
  type WayChange,
} from '@salt-trail/core'
import { connected } from '../database/connected'
import { readRevision } from '../estates/store'

export interface ComparisonTask {
  readonly databaseUrl: string
  /** The earlier and the later revision, by their ids. */
  readonly before: number
  readonly after: number
}

/** What differs between two revisions, as objects, as packets and as ways. */
export interface Comparison {
  readonly objects: readonly ObjectChange[]
  /** What is opened and cut, up to a budget. */
  readonly packets: ToldPackets
  /** How many ranges of how many subnets go another way. */
  readonly wayCount: number
  readonly subnetCount: number
  /** The first of them. */
  readonly ways: readonly (WayChange & { readonly moreRanges: number })[]
}

/** How many pairs of walks are made for a comparison; what is beyond them is told as left out. */
const MOST_PAIRS = 100_000
/** Packets are compared no longer than this. */
const MOST_MILLISECONDS = 60_000
/** More than these are counted only. */
const MOST_WAYS = 400
const MOST_RANGES = 16

/**
 * The entry of a worker thread: reads two revisions and compares them; the server's thread stays
 * free.
 */
export default async function compareRevisions({
  databaseUrl,
  before,
  after,
}: ComparisonTask): Promise<Comparison> {
  const saved = await connected(databaseUrl, (db) =>
    Promise.all([readRevision(db, before), readRevision(db, after)]),
  )
  const a = saved[0].estate
  const b = shareWith(a, saved[1].estate)
  const old = compile(a)
  const pair = { before: old, after: compile(b, old) }
  const memo = { before: hopMemo(), after: hopMemo() }
  const ways = compareWays(pair.before, pair.after, memo)
  const end = performance.now() + MOST_MILLISECONDS
  const budget = budgetOf(MOST_PAIRS, () => performance.now() > end)
  return {
    objects: compareEstates(a, b),
    packets: tellPackets(pair, packetsAmong(pair, candidatesOf(pair, memo), budget)),
    wayCount: ways.length,
    subnetCount: new Set(ways.map(({ subnet }) => subnet)).size,
    ways: ways.slice(0, MOST_WAYS).map((way) => ({
      ...way,
      ranges: way.ranges.slice(0, MOST_RANGES),
      moreRanges: Math.max(0, way.ranges.length - MOST_RANGES),
    })),
  }
}
