import {
  compareEstates,
  problemsJson,
  readEstate,
  type Estate,
  type ObjectChange,
  type ProblemsJson,
  type SourceFile,
} from '@salt-trail/core'
import { connected } from '../database/connected'
import { contentOf, type EstateContent } from '../estates/content'
import { limits } from '../estates/limits'
import { readRevision } from '../estates/store'
import { LONG, makeWay } from '../threads/make-way'

makeWay(LONG)

/** What is wanted of files beside what is wrong with them. */
export type Wanted =
  | { readonly want: 'problems' }
  /** What is saved of them. */
  | { readonly want: 'content' }
  /** What they change in a saved revision. */
  | { readonly want: 'changes'; readonly databaseUrl: string; readonly revisionId: number }

export type ReadingTask = Wanted & { readonly files: readonly SourceFile[] }

/** The text of a body, and which of its keys are wanted. */
export interface BodyTask {
  readonly want: 'body'
  readonly bytes: Uint8Array
  readonly keys: readonly string[]
}

/** Undefined where the body is no JSON. */
export interface ParsedBody {
  readonly value: unknown
}

/** What was made of the files; null where they hold errors. */
interface Made {
  readonly problems: true
  readonly content: EstateContent
  readonly changes: readonly ObjectChange[]
}
export interface Reading<W extends Wanted['want']> {
  readonly problems: ProblemsJson
  readonly made: Made[W] | null
}

async function make(estate: Estate, task: Wanted): Promise<Made[Wanted['want']]> {
  if (task.want === 'problems') return true
  if (task.want === 'content') return contentOf(estate)
  const saved = await connected(task.databaseUrl, (db) => readRevision(db, task.revisionId))
  return compareEstates(saved.estate, estate)
}

/**
 * The entry of a worker thread: reads and checks files, which takes seconds where they are large.
 */
export default async function readTask(
  task: ReadingTask | BodyTask,
): Promise<Reading<Wanted['want']> | ParsedBody> {
  return task.want === 'body' ? parsedBody(task) : readFiles(task)
}

function parsedBody({ bytes, keys }: BodyTask): ParsedBody {
  let all: unknown
  try {
    all = JSON.parse(new TextDecoder().decode(bytes))
  } catch {
    return { value: undefined }
  }
  if (typeof all !== 'object' || all === null || Array.isArray(all)) return { value: null }
  const known = keys.filter((key) => Object.hasOwn(all, key))
  return { value: Object.fromEntries(known.map((key) => [key, (all as never)[key]])) }
}

async function readFiles({ files, ...task }: ReadingTask): Promise<Reading<Wanted['want']>> {
  const { estate, problems } = readEstate(files, limits())
  return { problems: problemsJson(problems), made: estate && (await make(estate, task)) }
}
