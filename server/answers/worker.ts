import { connected } from '../database/connected'
import { readRevision } from '../estates/store'
import { Refused, refusedJson, type RefusedJson } from '../refused'
import { ANSWERS, type AnswerName } from './answers'
import { heldModel, heldRevisions, type HeldModel } from './held'
import { ASKED, makeWay } from '../threads/make-way'

makeWay(ASKED)

export interface AnswerTask {
  readonly databaseUrl: string
  readonly revisionId: number
  readonly name: AnswerName
  readonly asked: unknown
}

/** An answer as a JSON text, which is passed on as it is; or why there is none. */
export type Answered =
  { readonly json: string } | { readonly refused: RefusedJson } | { readonly failed: unknown }

/** The answer, with what the thread holds after it. */
export type Replied = Answered & {
  readonly holds: readonly number[]
  /** How long reading the revision took, in milliseconds, if it was read for this. */
  readonly reading: number | null
}

/**
 * The entry of a worker thread that answers from models: reading an estate takes seconds where it
 * is large, and the server's thread stays free.
 */
export default async function answer(task: AnswerTask): Promise<Replied> {
  const { databaseUrl, revisionId } = task
  const begun = performance.now()
  let reading: number | null = null
  const answered = await heldModel(revisionId, () =>
    connected(databaseUrl, (db) => readRevision(db, revisionId)).finally(() => {
      reading = performance.now() - begun
    }),
  ).then(
    (held) => answeredFrom(held, task),
    (error: unknown): Answered => ({ failed: error }),
  )
  return { ...answered, holds: heldRevisions(), reading }
}

function answeredFrom(held: HeldModel, { name, asked }: AnswerTask): Answered {
  try {
    const answers = ANSWERS[name] as (held: HeldModel, asked: unknown) => unknown
    return { json: JSON.stringify(answers(held, asked)) }
  } catch (error) {
    return error instanceof Refused ? { refused: refusedJson(error) } : { failed: error }
  }
}
