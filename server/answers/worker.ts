import { connected } from '../database/connected'
import { readRevision } from '../estates/store'
import { Refused, refusedJson, type RefusedJson } from '../refused'
import { ANSWERS, type AnswerName } from './answers'
import { heldModel, type HeldModel } from './held'

export interface AnswerTask {
  readonly databaseUrl: string
  readonly revisionId: number
  readonly name: AnswerName
  readonly asked: unknown
}

/** An answer as a JSON text, which is passed on as it is; or why there is none. */
export type Answered = { readonly json: string } | { readonly refused: RefusedJson }

/**
 * The entry of the worker thread that answers from models: reading an estate takes seconds where it
 * is large, and the server's thread stays free.
 */
export default async function answer({
  databaseUrl,
  revisionId,
  name,
  asked,
}: AnswerTask): Promise<Answered> {
  const held = await heldModel(revisionId, () =>
    connected(databaseUrl, (db) => readRevision(db, revisionId)),
  )
  try {
    return {
      json: JSON.stringify(
        await (ANSWERS[name] as (held: HeldModel, asked: unknown) => unknown)(held, asked),
      ),
    }
  } catch (error) {
    if (!(error instanceof Refused)) throw error
    return { refused: refusedJson(error) }
  }
}
