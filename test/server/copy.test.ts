import fc from 'fast-check'
import { drizzle } from 'drizzle-orm/node-postgres'
import { integer, pgTable, text } from 'drizzle-orm/pg-core'
import pg from 'pg'
import { copyRows } from '../../server/database/copy'

const copied = pgTable('copied', {
  number: integer().notNull(),
  someText: text(),
  body: text().notNull(),
})

const client = new pg.Client({ connectionString: process.env.DATABASE_URL })
const db = drizzle(client, { casing: 'snake_case' })
beforeAll(async () => {
  await client.connect()
  await client.query(
    'create temporary table copied (number integer not null, some_text text, body text not null)',
  )
})
beforeEach(() => client.query('truncate copied'))
afterAll(() => client.end())

const saved = () => db.select().from(copied).orderBy(copied.number)

test('any text arrives as it was sent, and nothing as nothing', async () => {
  const special = fc.constantFrom('\\', '\n', '\r', '\t', '\\N', '\\.', '"', '\\n', '')
  // The database takes every character but the one numbered nought.
  const texts = fc
    .array(fc.oneof(special, fc.string({ unit: 'grapheme' })), { maxLength: 6 })
    .map((parts) => parts.join('').replaceAll('\0', ''))
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.record({ someText: fc.option(texts), body: texts }), { maxLength: 30 }),
      async (given) => {
        await client.query('truncate copied')
        const rows = given.map((row, number) => ({ number, ...row }))
        await copyRows(client, copied, rows)
        expect(await saved()).toEqual(rows)
      },
    ),
    { numRuns: 40 },
  )
})

test('many rows arrive, in their order', async () => {
  const rows = Array.from({ length: 1_234 }, (_, number) => ({
    number,
    someText: null,
    body: `row ${number}`,
  }))
  await copyRows(client, copied, rows)
  expect(await saved()).toEqual(rows)
})

test('rows that cannot be made leave nothing of them, and the client can go on', async () => {
  function* failing() {
    for (let number = 0; number < 500; number++) yield { number, someText: null, body: 'begun' }
    throw new Error('no more rows')
  }
  await expect(copyRows(client, copied, failing())).rejects.toThrow('no more rows')
  expect(await saved()).toEqual([])
})

test('what the database refuses is told as it says it', async () => {
  await expect(
    copyRows(client, copied, [{ number: 1, someText: 'a', body: null as unknown as string }]),
  ).rejects.toThrow('null value in column "body"')
  expect(await saved()).toEqual([])
})
