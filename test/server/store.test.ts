import { eq, inArray } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { readEstate } from '@salt-trail/core'
import { checkedRevisions } from '../../server/database/schema'
import { contentOf } from '../../server/estates/content'
import {
  addRevision,
  createEstate,
  findRevision,
  freeSlug,
  listRevisions,
  readRevision,
  RevisionConflict,
} from '../../server/estates/store'

const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL })
const db = drizzle(pool, { casing: 'snake_case' })
afterAll(() => pool.end())

const estate = readEstate([
  {
    name: 'x',
    text: 'format: salt-trail/1\nname: Store Test\nnetworks:\n  n: { ranges: [10.0.0.0/8] }\n',
  },
]).estate!
const revision = { content: contentOf(estate), files: [], author: 'M. Dune', origin: 'files' }

test('a revision is read back as it was saved', async () => {
  const { slug } = await createEstate(db, revision)
  const { id } = (await findRevision(db, slug, null))!
  const { estate: read, document } = await readRevision(db, id)
  expect(read).toEqual(estate)
  expect(document).toBe(revision.content.document)
})

describe('what this version checked is not checked again', () => {
  const invalid = contentOf({
    ...estate,
    subnets: new Map([['s', { network: 'nowhere', ranges: ['10.1.0.0/16'] }]]),
  })

  test('when it was saved by it', async () => {
    const { slug } = await createEstate(db, { ...revision, content: invalid })
    const { id } = (await findRevision(db, slug, null))!
    expect((await readRevision(db, id)).estate.subnets.get('s')?.network).toBe('nowhere')
  })

  test('but by another it is, and then noted, or said to be no longer valid', async () => {
    const made = await Promise.all(
      [invalid, revision.content].map((content) => createEstate(db, { ...revision, content })),
    )
    const [bad, good] = await Promise.all(
      made.map(async ({ slug }) => (await findRevision(db, slug, null))!.id),
    )
    const engines = (id: number) =>
      db.select().from(checkedRevisions).where(eq(checkedRevisions.revisionId, id))
    const [byThis] = await engines(good!)
    await db
      .update(checkedRevisions)
      .set({ engine: 'another' })
      .where(inArray(checkedRevisions.revisionId, [bad!, good!]))
    await expect(readRevision(db, bad!)).rejects.toThrow('can no longer be read: subnets/s')
    expect((await readRevision(db, good!)).estate).toEqual(estate)
    expect(await engines(good!)).toEqual([byThis])
    expect(await engines(bad!)).toMatchObject([{ engine: 'another' }])
  })
})

test('a revision that fails half-way leaves nothing behind', async () => {
  const { slug } = await createEstate(db, revision)
  const broken = { ...estate, networks: new Map([['n', { ranges: ['10.0.0.1/8'] }]]) }
  // The database's own type refuses host bits when the ranges are written, after the revision's
  // row.
  await expect(
    addRevision(db, slug, 1, { ...revision, content: contentOf(broken) }),
  ).rejects.toThrow()
  expect(await listRevisions(db, slug)).toHaveLength(1)
  expect(await addRevision(db, slug, 1, revision)).toEqual({ slug, number: 2 })
})

test('an older base is a conflict, an estate that is not there is null', async () => {
  const { slug } = await createEstate(db, revision)
  await addRevision(db, slug, 1, revision)
  await expect(addRevision(db, slug, 1, revision)).rejects.toThrow(RevisionConflict)
  expect(await addRevision(db, 'none', 1, revision)).toBeNull()
  expect(await findRevision(db, slug, 9)).toBeNull()
})

test.each([
  ['Halite Ferries', [], 'halite-ferries'],
  ['Halite Ferries', ['halite-ferries', 'halite-ferries-2'], 'halite-ferries-3'],
  ['Ærø & Søn', [], 'r-s-n'],
  ['漢字', [], 'estate'],
])('%s becomes an address', (name, taken, slug) =>
  expect(freeSlug(name, new Set(taken))).toBe(slug),
)
