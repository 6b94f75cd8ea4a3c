import {
  compareEstates,
  compareWays,
  compile,
  type ObjectChange,
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

/** What differs between two revisions, as objects and as ways. */
export interface Comparison {
  readonly objects: readonly ObjectChange[]
  /** How many ranges of how many subnets go another way. */
  readonly wayCount: number
  readonly subnetCount: number
  /** The first of them. */
  readonly ways: readonly (WayChange & { readonly moreRanges: number })[]
}

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
  const [a, b] = [saved[0].estate, saved[1].estate]
  const ways = compareWays(compile(a), compile(b))
  return {
    objects: compareEstates(a, b),
    wayCount: ways.length,
    subnetCount: new Set(ways.map(({ subnet }) => subnet)).size,
    ways: ways.slice(0, MOST_WAYS).map((way) => ({
      ...way,
      ranges: way.ranges.slice(0, MOST_RANGES),
      moreRanges: Math.max(0, way.ranges.length - MOST_RANGES),
    })),
  }
}
