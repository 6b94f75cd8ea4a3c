import {
  defineEventHandler,
  getResponseStatus,
  getRouterParams,
  type EventHandler,
  type H3Event,
} from 'h3'
import { RIGHTS } from '../../contract/rights'
import { admit, askerOf, type Asker } from '../access/admission'
import { beginEntry, dropEntry, endEntry } from '../access/record'
import { database } from '../database/client'

type Routes = typeof RIGHTS
type Answering<A> = (event: H3Event, asker: A) => unknown

declare module 'h3' {
  interface H3EventContext {
    requestId?: string
    /** Who asks, once he is known. */
    asker?: Asker | null
    /** What the record says besides. */
    about?: { about?: string; estate?: string; who?: string; accountId?: number }
  }
}

/** Adds to what the record says of the change that a request makes. */
export function tell(event: H3Event, more: NonNullable<H3Event['context']['about']>): void {
  event.context.about = { ...event.context.about, ...more }
}

/**
 * A route of the API for those who are signed in: who may not use it is refused before anything
 * else is looked at; what it changes is put on record before it is done.
 */
export const route = <P extends keyof Routes, M extends keyof Routes[P] & string>(
  path: P,
  method: M,
  answer: Answering<Asker>,
): EventHandler => guarded(path, method, answer as Answering<Asker | null>, false)

/** One that anybody may use; the table of rights says so, too. */
export const openRoute = <P extends keyof Routes, M extends keyof Routes[P] & string>(
  path: P,
  method: M,
  answer: Answering<Asker | null>,
): EventHandler => guarded(path, method, answer, true)

function guarded<P extends keyof Routes, M extends keyof Routes[P] & string>(
  path: P,
  method: M,
  answer: Answering<Asker | null>,
  isOpen: boolean,
): EventHandler {
  const right = RIGHTS[path][method] as (typeof RIGHTS)['/api/health']['get']
  if ((right.needs === 'anyone') !== isOpen)
    throw new Error(`${method} ${path} is not open as the table of rights says`)
  return defineEventHandler(async (event) => {
    // Whether the server is up is told without the database.
    const asker = right.needs === 'anyone' && !right.changes ? null : await askerOf(event)
    event.context.asker = asker
    const what = `${method} ${path}`
    if (!right.changes) {
      admit(asker, right, event)
      return answer(event, asker)
    }
    // A stranger at a closed route puts nothing on record, however often he knocks.
    if (asker === null && !isOpen) admit(asker, right, event)
    return recorded(event, asker, what, () => {
      admit(asker, right, event)
      return answer(event, asker)
    })
  })
}

/** Does what changes something between the two halves of its entry in the record. */
export async function recorded<T>(
  event: H3Event,
  asker: Asker | null,
  what: string,
  work: () => T,
): Promise<Awaited<T>> {
  const db = database()
  const id = await beginEntry(db, {
    accountId: asker?.id ?? null,
    who: asker ? `${asker.name} (${asker.login})` : 'somebody',
    by: asker?.by ?? 'nobody signed in',
    what,
    estate: getRouterParams(event, { decode: true }).estate?.slice(0, 200) ?? null,
    request: String(event.context.requestId),
  })
  try {
    const answered = await work()
    await endEntry(db, id, { ...event.context.about, status: getResponseStatus(event) })
    return answered
  } catch (error) {
    const status = (error as { statusCode?: number }).statusCode ?? 500
    // Of strangers only a wrong password stays on record: attempts at one are limited.
    const ended =
      asker === null && status !== 422
        ? dropEntry(db, id)
        : endEntry(db, id, { ...event.context.about, status })
    await ended.catch(() => undefined)
    throw error
  }
}
