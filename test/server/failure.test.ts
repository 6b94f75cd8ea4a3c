import pg from 'pg'
import { saving } from '../../server/http/saving'
import { failureMessage, isAway } from '../../server/database/failure'

/**
 * As the database package tells a failed statement: with the statement and its values, the reason
 * underneath.
 */
const failed = (code: string, reason: string): Error =>
  new Error('Failed query: insert into "revisions" …', {
    cause: Object.assign(new Error(reason), { code }),
  })

test('a full disk is told as such, with what to do; nothing else is', async () => {
  const full = failed('53100', 'could not extend file "base/16384/2613": No space left on device')
  await expect(saving(() => Promise.reject(full))).rejects.toMatchObject({
    statusCode: 507,
    data: { code: 'disk-full' },
  })
  const other = failed('23505', 'duplicate key value violates unique constraint')
  await expect(saving(() => Promise.reject(other))).rejects.toBe(other)
  expect(await saving(() => Promise.resolve(7))).toBe(7)
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
