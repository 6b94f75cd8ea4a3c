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

/** What is wanted of files beside what is wrong with them. */
export type Wanted =
  | { readonly want: 'problems' }
  /** What is saved of them. */
  | { readonly want: 'content' }
  /** What they change in a saved revision. */
  | { readonly want: 'changes'; readonly databaseUrl: string; readonly revisionId: number }

export type ReadingTask = Wanted & { readonly files: readonly SourceFile[] }

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
export default async function readFiles({
  files,
  ...task
}: ReadingTask): Promise<Reading<Wanted['want']>> {
  const { estate, problems } = readEstate(files, limits())
  return { problems: problemsJson(problems), made: estate && (await make(estate, task)) }
}
