import {
  budgetOf,
  candidatesOf,
  compareEstates,
  compareWays,
  compile,
  isListSection,
  isMapSection,
  packetsAmong,
  readWritten,
  shareWith,
  splitRef,
  tellPackets,
  waysOf,
  type Estate,
  type ObjectChange,
  type Section,
  type ToldPackets,
  type WayChange,
} from '@salt-trail/core'
import { connected } from '../database/connected'
import { readRevision } from '../estates/store'
import { LONG, makeWay } from '../threads/make-way'

makeWay(LONG)

export interface ComparisonTask {
  readonly kind: 'comparison'
  readonly databaseUrl: string
  /** The earlier and the later revision, by their ids. */
  readonly before: number
  readonly after: number
}

/** What became of one object, or of a section that is edited as one, over some revisions. */
export interface HistoryTask {
  readonly kind: 'history'
  readonly databaseUrl: string
  readonly section: Section
  /** Its id; of a section that is edited as one, empty. */
  readonly object: string
  /** By their ids, the newest first. */
  readonly revisions: readonly number[]
}

/** For each revision but the oldest what it did to the object; null where it is the same. */
export type ObjectHistory = readonly (ObjectChange | null)[]

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
 * The entry of a worker thread: reads revisions and compares them, as wholes or by one object; the
 * server's thread stays free.
 */
export default function compare(
  task: ComparisonTask | HistoryTask,
): Promise<Comparison | ObjectHistory> {
  return task.kind === 'comparison' ? compareRevisions(task) : objectHistory(task)
}

/** Reads the revisions one after the other, so that no more than one is held. */
async function objectHistory({
  databaseUrl,
  section,
  object,
  revisions,
}: HistoryTask): Promise<ObjectHistory> {
  const only: Estate[] = []
  for (const id of revisions) {
    const { estate } = await connected(databaseUrl, (db) => readRevision(db, id))
    only.push({ ...NOTHING, [section]: partOf(estate, section, object) })
  }
  return only.slice(0, -1).map((now, at) => joined(section, compareEstates(only[at + 1]!, now)))
}

/** An object of a section alone, or a section that is edited as one. */
function partOf(estate: Estate, section: Section, object: string): unknown {
  if (!isMapSection(section)) return estate[section]
  const held = estate[section].get(object)
  return new Map(held === undefined ? [] : [[object, held]])
}

/** The changes of one object as one: several entries of a list change it. */
function joined(section: Section, changes: readonly ObjectChange[]): ObjectChange | null {
  const [first, ...others] = changes
  if (first === undefined || !isListSection(section)) return first ?? null
  const isOneKind = others.every(({ kind }) => kind === first.kind)
  return {
    object: section,
    kind: isOneKind ? first.kind : 'changed',
    keys: changes.map(({ object }) => splitRef(object)[1]),
  }
}

/** An estate without any object. */
const NOTHING = readWritten('{"format":"salt-trail/1","name":"one object"}')!

async function compareRevisions({
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
  const known = { before: waysOf(pair.before), after: waysOf(pair.after) }
  const ways = compareWays(pair.before, pair.after, known)
  const end = performance.now() + MOST_MILLISECONDS
  const budget = budgetOf(MOST_PAIRS, () => performance.now() > end)
  return {
    objects: compareEstates(a, b),
    packets: tellPackets(pair, packetsAmong(pair, candidatesOf(pair, known), budget)),
    wayCount: ways.length,
    subnetCount: new Set(ways.map(({ subnet }) => subnet)).size,
    ways: ways.slice(0, MOST_WAYS).map((way) => ({
      ...way,
      ranges: way.ranges.slice(0, MOST_RANGES),
      moreRanges: Math.max(0, way.ranges.length - MOST_RANGES),
    })),
  }
}
