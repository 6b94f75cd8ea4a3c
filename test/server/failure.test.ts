import pg from 'pg'
import { createError } from 'h3'
import { toldOf } from '../../server/http/errors'
import { failureMessage, isAway } from '../../server/database/failure'

/**
 * As the database package tells a failed statement: with the statement and its values, the reason
 * underneath.
 */
const failed = (code: string, reason: string): Error =>
  new Error('Failed query: insert into "revisions" …', {
    cause: Object.assign(new Error(reason), { code }),
  })

/** As a request that threw something comes to who tells errors. */
const thrown = (cause: Error) => createError({ cause, unhandled: true, message: cause.message })

test('a full disk and a database that is away are told as such, with what to do', () => {
  const full = failed('53100', 'could not extend file "base/16384/2613": No space left on device')
  expect(toldOf(thrown(full), 'a1')).toMatchObject({ status: 507, code: 'disk-full' })
  const away = failed('57P01', 'terminating connection due to administrator command')
  expect(toldOf(thrown(away), 'a1')).toMatchObject({ status: 503, code: 'no-database' })
})

test('what nobody foresaw is one sentence with an id, and nothing of what went wrong', () => {
  const other = failed('23505', 'duplicate key value violates "estates_slug" of Halite Ferries')
  const { status, code, message, more } = toldOf(thrown(other), 'a1b2c3d4')
  expect({ status, code, more }).toEqual({
    ...{ status: 500, code: 'unforeseen' },
    more: { id: 'a1b2c3d4' },
  })
  expect(message).toMatch(/error a1b2c3d4/)
  expect(message).not.toMatch(/Halite|insert|duplicate/)
})

test('what went wrong is said without the statement and its values', () => {
  expect(failureMessage(failed('53100', 'No space left on device'))).toBe('No space left on device')
  expect(failureMessage(new Error('the estate cannot be read'))).toBe('the estate cannot be read')
  expect(failureMessage('gone')).toBe('gone')
})

test('a connection that is lost says that the database is away, to whoever waits for it and to who asks later', async () => {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL })
  client.on('error', () => undefined)
  await client.connect()
  const failure = (query: string): Promise<unknown> =>
    client.query(query).then(
      () => null,
      (error: unknown) => error,
    )
  expect(isAway(await failure('select pg_terminate_backend(pg_backend_pid())'))).toBe(true)
  await new Promise((resolve) => setTimeout(resolve, 100))
  expect(isAway(await failure('select 1'))).toBe(true)
  await client.end().catch(() => undefined)
  expect(isAway(new Error('the estate cannot be read'))).toBe(false)
})
