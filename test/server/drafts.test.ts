import { eq } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import type { z } from 'zod'
import type { draftAnswer } from '../../contract/drafts'
import { drafts as draftsTable, revisions } from '../../server/database/schema'
import { base, create, estateText, files, get, json, person, post, put } from './requests'

type Draft = z.output<typeof draftAnswer>

const read = async <T>(answer: Response): Promise<T> => (await answer.json()) as T
const refused = async (
  answer: Response,
): Promise<{ status: number; code: string; message: string }> => {
  const { data } = await read<{ data: { code: string; message: string } }>(answer)
  return { status: answer.status, code: data.code, message: data.message }
}
const note = (subnet: string, value: string, op = 'add') => [
  { op, path: `/subnets/${subnet}/note`, value },
]
const author = 'M. Dune'

let estate = ''
beforeEach(async () => {
  estate = `/api/estates/${await create('Drafted')}`
})

async function start(more: object = {}): Promise<string> {
  const answer = await post(`${estate}/drafts`, { name: 'Way out', ...more })
  expect(answer.status).toBe(201)
  return `${estate}/drafts/${(await read<{ id: number }>(answer)).id}`
}
const draftAt = async (path: string): Promise<Draft> => read(await get(path))
const change = async (path: string, patch: unknown, seen = 0, who = author) => {
  const headers = who === author ? json : await person(who, estate, 'editor')
  return post(`${path}/changes`, { what: `change by ${who}`, seen, patch }, headers)
}
const stateOf = async (path: string, version?: number) => {
  const named = `draft-${path.split('/').at(-1)}${version === undefined ? '' : `.${version}`}`
  return read<{ subnets: Record<string, { note?: string }> }>(
    await get(`${estate}/${named}/document?notation=json`),
  )
}

test('a draft keeps its changes in order, and every view is asked for its state', async () => {
  const path = await start()
  expect((await change(path, note('2', 'one'))).status).toBe(200)
  expect((await change(path, note('10', 'two'), 1)).status).toBe(200)
  const draft = await draftAt(path)
  expect(draft).toMatchObject({ version: 2, base: 1, head: 1, undo: 2, redo: null })
  expect(draft.changes.map(({ stands }) => stands)).toEqual([true, true])
  const { subnets } = await stateOf(path)
  expect([subnets['2']!.note, subnets['10']!.note]).toEqual(['one', 'two'])
  expect((await stateOf(path, 1)).subnets['10']!.note).toBeUndefined()
  const named = `${estate}/draft-${draft.id}`
  const outline = await read<{ draft: object; revision: object }>(await get(`${named}/outline`))
  expect(outline).toMatchObject({
    draft: { id: draft.id, version: 2, name: 'Way out', kind: 'change' },
    revision: { number: 1, origin: 'files' },
  })
  expect((await get(`${named}/exits`)).status).toBe(200)
  // What a draft makes of its base is no revision of the estate.
  expect(await read<unknown[]>(await get(`${estate}/revisions`))).toHaveLength(1)
})

test('changes are undone and redone, and one in the middle is taken back alone', async () => {
  const path = await start()
  await change(path, note('2', 'one'))
  await change(path, note('10', 'two'), 1)
  expect((await post(`${path}/undo`, {})).status).toBe(200)
  expect((await stateOf(path)).subnets['10']!.note).toBeUndefined()
  expect((await post(`${path}/redo`, {})).status).toBe(200)
  expect((await stateOf(path)).subnets['10']!.note).toBe('two')
  expect((await post(`${path}/undo`, { entry: 1 })).status).toBe(200)
  const { subnets } = await stateOf(path)
  expect([subnets['2']!.note, subnets['10']!.note]).toEqual([undefined, 'two'])
  await post(`${path}/undo`, {})
  expect(await refused(await post(`${path}/undo`, {}))).toMatchObject({ code: 'nothing-to-undo' })
})

test('a change that later ones rest on says which', async () => {
  const path = await start()
  await change(path, note('2', 'one'))
  await change(path, note('2', 'two', 'replace'), 1)
  expect(await refused(await post(`${path}/undo`, { entry: 1 }))).toMatchObject({
    status: 409,
    code: 'rests-on-it',
    message: expect.stringContaining('change by M. Dune'),
  })
})

test('two people in one draft: both changes stand, and who wrote over whom is told', async () => {
  const path = await start()
  await change(path, note('2', 'hers'), 0, 'A. Reef')
  const clash = await read(await change(path, note('2', 'his'), 0, 'B. Spit'))
  expect(clash).toMatchObject({ version: 2, conflicts: [{ theirs: 'hers' }] })
  expect((await stateOf(path)).subnets['2']!.note).toBe('his')
  const both = await Promise.all(
    ['C. Shoal', 'D. Foam'].map((who) =>
      change(path, [{ op: 'add', path: `/subnets/10/tags`, value: { by: who } }], 2, who),
    ),
  )
  expect(both.map(({ status }) => status)).toEqual([200, 200])
  const { version, changes } = await draftAt(path)
  expect([version, changes.slice(0, 2).map((one) => one.author)]).toEqual([
    4,
    ['A. Reef', 'B. Spit'],
  ])
})

test.each([
  ['no JSON pointer', [{ op: 'add', path: 'subnets', value: 1 }], 'change-fails', 'operation 1'],
  ['a place that is not there', note('77', 'x'), 'change-fails', 'has no "77"'],
  [
    'an invalid estate',
    [{ op: 'replace', path: '/subnets/2/network', value: 'nowhere' }],
    'invalid-estate',
    'there is no "nowhere" in networks',
  ],
])('a change with %s is refused, and nothing is lost', async (_, patch, code, says) => {
  const path = await start()
  expect(await refused(await change(path, patch))).toMatchObject({
    status: 422,
    code,
    message: expect.stringContaining(says),
  })
  expect((await draftAt(path)).version).toBe(0)
  const first = { what: 'first', patch }
  const answer = await post(`${estate}/drafts`, { name: 'None', change: first })
  expect((await refused(answer)).code).toBe(code)
  expect(await read<unknown[]>(await get(`${estate}/drafts`))).toHaveLength(1)
})

test('what is typed is kept by object and person until it is a change', async () => {
  const path = await start()
  const keep = (text: string | null, headers: Record<string, string> = json) =>
    put(`${path}/texts`, { object: 'subnets/2', text }, headers)
  await keep('network: no')
  await keep('network: nowhere')
  await keep('note: mine', await person('A. Reef', estate, 'editor'))
  expect((await draftAt(path)).texts).toMatchObject([
    { author, text: 'network: nowhere' },
    { author: 'A. Reef', text: 'note: mine' },
  ])
  await keep(null)
  expect((await draftAt(path)).texts).toHaveLength(1)
})

test('a draft is put on a newer revision, with what could not follow', async () => {
  const path = await start()
  await change(path, note('2', 'mine'))
  await change(path, [{ op: 'add', path: '/subnets/10/zone', value: 'z' }], 1)
  const text = estateText('Drafted').replace('[10.1.2.0/24] }', '[10.1.2.0/24], note: theirs }')
  await post(`${estate}/revisions`, { files: files(text), base: 1 })
  expect(await refused(await post(`${path}/revision`, {}))).toMatchObject({
    status: 409,
    code: 'newer-revision',
  })
  expect((await post(`${path}/rebase`, {})).status).toBe(200)
  const draft = await draftAt(path)
  expect(draft).toMatchObject({ base: 2, head: 2 })
  expect(draft.conflicts[0]!.reason).toContain('theirs is "theirs", here "mine"')
  expect((await stateOf(path)).subnets['2']!.note).toBe('mine')
  expect(await refused(await change(path, note('10', 'late'), 1))).toMatchObject({
    code: 'draft-rebased',
  })
})

test('a draft whose base is gone still opens, and goes on from the newest revision', async () => {
  const path = await start()
  await change(path, note('2', 'kept'))
  await post(`${estate}/revisions`, { files: files(estateText('Drafted')), base: 1 })
  const { id } = await draftAt(path)
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL })
  try {
    const db = drizzle(pool, { casing: 'snake_case' })
    const [row] = await db.select().from(draftsTable).where(eq(draftsTable.id, id))
    await db.delete(revisions).where(eq(revisions.id, row!.baseId!))
  } finally {
    await pool.end()
  }
  expect(await draftAt(path)).toMatchObject({ baseIsThere: false, changes: [{ stands: true }] })
  expect(await refused(await change(path, note('10', 'x'), 1))).toMatchObject({ code: 'base-gone' })
  expect((await post(`${path}/rebase`, {})).status).toBe(200)
  expect(await draftAt(path)).toMatchObject({ baseIsThere: true, base: 2 })
  expect((await stateOf(path)).subnets['2']!.note).toBe('kept')
})

test('who looks again is told only what is new, what others are typing included', async () => {
  const path = await start()
  const looked = await get(path)
  const tag = { 'if-none-match': looked.headers.get('etag')! }
  expect((await get(path, tag)).status).toBe(304)
  const typed = (text: string | null) => put(`${path}/texts`, { object: 'subnets/2', text })
  expect((await typed('cidr: 10')).status).toBe(200)
  const seen = await get(path, tag)
  expect(seen.status).toBe(200)
  expect((await read<Draft>(seen)).texts).toMatchObject([{ object: 'subnets/2' }])
  await typed(null)
  const again = await get(path, { 'if-none-match': seen.headers.get('etag')! })
  expect((await read<Draft>(again)).texts).toEqual([])
})

test('a draft holds a hundred objects that are half-typed, and no more', async () => {
  const path = await start()
  const typed = (object: string) =>
    put(`${path}/texts`, { object: `subnets/${object}`, text: 'cidr' })
  for (let at = 0; at < 100; at++) expect((await typed(`s${at}`)).status).toBe(200)
  expect(await refused(await typed('s100'))).toMatchObject({ status: 409, code: 'too-many-texts' })
  expect((await typed('s7')).status).toBe(200)
})

describe('saving a draft as a revision', () => {
  const stays = (must: string) => ({
    op: 'add',
    path: '/expectations',
    value: { apart: { must, from: 'interfaces/h2', to: 'interfaces/h10' } },
  })
  const host = (id: string, address: string) => ({
    op: 'add',
    path: `/interfaces/${id}`,
    value: { subnet: id.slice(1), addresses: [address] },
  })

  test('saves all of it, with who and why', async () => {
    const path = await start()
    await change(path, note('2', 'saved'))
    const saved = await post(`${path}/revision`, { note: 'done' })
    expect([saved.status, await read(saved)]).toMatchObject([201, { number: 2 }])
    expect(await draftAt(path)).toMatchObject({ savedAs: 2 })
    const [head] = await read<{ number: number; note: string; origin: string }[]>(
      await get(`${estate}/revisions`),
    )
    expect(head).toMatchObject({ number: 2, note: 'done', origin: 'draft', reason: null })
    // The file it was brought in with is edited in place.
    const [file] = await read<{ name: string; text: string }[]>(await get(`${estate}/2/files`))
    expect(file!.name).toBe('estate.yaml')
    expect(file!.text).toContain('# kept as written')
    expect(file!.text).toContain('note: saved')
  })

  test('is refused where an expectation breaks that held, unless a reason is given', async () => {
    const first = await start()
    const made = await change(first, [
      { op: 'add', path: '/interfaces', value: {} },
      host('h2', '10.1.2.10'),
      host('h10', '10.1.1.10'),
      { op: 'add', path: '/ruleSets', value: { closed: { stateful: true, rules: [] } } },
      { op: 'add', path: '/interfaces/h10/ruleSets', value: ['closed'] },
      stays('never-reach'),
    ])
    expect([made.status, await made.text()]).toEqual([200, expect.stringContaining('version')])
    expect((await post(`${first}/revision`, {})).status).toBe(201)
    const second = await start()
    await change(second, [{ op: 'remove', path: '/interfaces/h10/ruleSets' }])
    expect(await refused(await post(`${second}/revision`, {}))).toMatchObject({
      status: 422,
      code: 'breaks-expectations',
      message: expect.stringContaining('apart'),
    })
    const reason = 'the desk moves'
    expect((await post(`${second}/revision`, { reason })).status).toBe(201)
    const [head] = await read<{ reason: string }[]>(await get(`${estate}/revisions`))
    expect(head).toMatchObject({ number: 3, reason })
  })
})

test('the plan, the patch and the file of a draft say the same', async () => {
  const path = await start({ change: { what: 'first', patch: note('2', 'one') } })
  expect(await read(await get(`${path}/patch`))).toEqual(note('2', 'one'))
  expect(await read(await get(`${path}/plan`))).toMatchObject({
    gapless: true,
    steps: [{ what: 'change note of subnets/2', changes: note('2', 'one') }],
  })
})

test('the server foresees what a browser would, with what is being edited', async () => {
  const path = await start()
  const away = [{ op: 'remove', path: '/subnets/10' }]
  const found = await read<{ consequences: { exits: { subnet: string }[] } }>(
    await post(`${path}/foresight`, { pending: away }),
  )
  expect(found.consequences.exits.map(({ subnet }) => subnet)).toContain('10')
  const none = await read<{ consequences: { exits: unknown[] } }>(
    await post(`${path}/foresight`, {}),
  )
  expect(none.consequences.exits).toEqual([])
  const invalid = [{ op: 'replace', path: '/subnets/2/network', value: 'nowhere' }]
  expect(await refused(await post(`${path}/foresight`, { pending: invalid }))).toMatchObject({
    code: 'invalid-estate',
  })
})

test('packets are told later, in turns, and come to the same', async () => {
  interface Answer {
    readonly consequences: { readonly packets: object | null; readonly exits: unknown[] }
  }
  const path = await start()
  const pending = [{ op: 'remove', path: '/subnets/10' }]
  const foresee = async (packets: string, what: object[] = pending): Promise<Answer> =>
    read<Answer>(await post(`${path}/foresight`, { pending: what, packets }))
  const whole = await foresee('all')
  const first = await foresee('later')
  expect(first.consequences).toEqual({ ...whole.consequences, packets: null })
  let more = await foresee('more')
  while (more.consequences.packets === null) more = await foresee('more')
  expect(more.consequences).toEqual(whole.consequences)
  // Another question displaces it; it is answered all the same.
  await foresee('later')
  await foresee('later', [])
  expect((await foresee('more')).consequences).toEqual(whole.consequences)
  expect((await post(`${path}/foresight`, { packets: 'none' })).status).toBe(400)
})

test('drafts are told apart by estate, listed, named and thrown away', async () => {
  const path = await start()
  const id = path.split('/').at(-1)
  const other = `/api/estates/${await create('Another one')}`
  expect((await get(`${other}/drafts/${id}`)).status).toBe(404)
  expect((await get(`${other}/draft-${id}/outline`)).status).toBe(404)
  await fetch(`${base}${path}`, {
    method: 'PUT',
    headers: json,
    body: JSON.stringify({
      name: 'Second way out',
      pinned: [{ from: 'subnet:2', to: 'internet', over: 'tcp 443' }],
    }),
  })
  expect(await read(await get(`${estate}/drafts`))).toMatchObject([
    { name: 'Second way out', changes: 0 },
  ])
  expect(await draftAt(path)).toMatchObject({ pinned: [{ to: 'internet' }] })
  expect((await fetch(`${base}${path}`, { method: 'DELETE' })).status).toBe(200)
  expect((await get(path)).status).toBe(404)
})

test('states that are too old to be looked at again are dropped', async () => {
  const path = await start()
  const { id } = await draftAt(path)
  for (let version = 0; version < 7; version++) {
    await change(path, note('2', `text ${version}`, version === 0 ? 'add' : 'replace'), version)
    await stateOf(path)
  }
  const pool = new pg.Pool({ connectionString: process.env.DATABASE_URL })
  try {
    const db = drizzle(pool, { casing: 'snake_case' })
    const kept = () => db.select().from(revisions).where(eq(revisions.draftId, id))
    for (let wait = 0; wait < 50 && (await kept()).length > 4; wait++)
      await new Promise((resolve) => setTimeout(resolve, 50))
    expect((await kept()).length).toBeLessThanOrEqual(4)
  } finally {
    await pool.end()
  }
})
