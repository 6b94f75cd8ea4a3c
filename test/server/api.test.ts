import pg from 'pg'
import { create, estateText, files, get, json, post } from './requests'

test('the demo is there, once', async () => {
  const estates = (await (await get('/api/estates')).json()) as {
    slug: string
    head: { number: number; origin: string }
  }[]
  expect(estates.filter((estate) => estate.slug === 'halite-ferries')).toMatchObject([
    { head: { number: 3, origin: 'demo' } },
  ])
})

describe('revisions', () => {
  test('are saved with author and origin, in their own order, with the files as they were', async () => {
    const slug = await create('Sound Pier')
    expect(slug).toMatch(/^sound-pier/)
    expect(await (await get(`/api/estates/${slug}/revisions`)).json()).toMatchObject([
      { number: 1, author: 'M. Dune', origin: 'files', note: 'first' },
    ])
    const document = await (await get(`/api/estates/${slug}/1/document?notation=json`)).text()
    expect(document.indexOf('"10"')).toBeLessThan(document.indexOf('"2"'))
    const yaml = await get(`/api/estates/${slug}/head/document`)
    expect(yaml.headers.get('content-type')).toContain('yaml')
    expect(await yaml.text()).toContain('name: Sound Pier')
    expect(await (await get(`/api/estates/${slug}/head/files`)).json()).toEqual(
      files(estateText('Sound Pier')),
    )
  })

  test('the next one must know the newest', async () => {
    const slug = await create('Two Hands')
    const next = (base: number, note: string) =>
      post(`/api/estates/${slug}/revisions`, {
        files: files(estateText('Two Hands', '[10.1.0.0/16]')),
        note,
        base,
      })
    expect((await next(1, 'one')).status).toBe(201)
    const late = await next(1, 'two')
    expect(late.status).toBe(409)
    expect(await late.json()).toMatchObject({ data: { code: 'newer-revision', head: 2 } })
    const revisions = (await (await get(`/api/estates/${slug}/revisions`)).json()) as {
      number: number
      note: string
    }[]
    expect(revisions.map((r) => [r.number, r.note])).toEqual([
      [2, 'one'],
      [1, 'first'],
    ])
  })

  test('of many at the same moment exactly one is saved', async () => {
    const slug = await create('Rush Hour')
    const answers = await Promise.all(
      Array.from({ length: 6 }, () =>
        post(`/api/estates/${slug}/revisions`, {
          files: files(estateText('Rush Hour', '[10.1.0.0/16]')),
          base: 1,
        }),
      ),
    )
    expect(answers.map((a) => a.status).sort()).toEqual([201, 409, 409, 409, 409, 409])
  })

  test('an estate with errors is refused whole, with all of them', async () => {
    const before = ((await (await get('/api/estates')).json()) as unknown[]).length
    const answer = await post('/api/estates', {
      files: files(
        'format: salt-trail/1\nname: x\nsites:\n  s: { ranges: [10.0.0.1/8], colour: red }\n',
      ),
    })
    expect(answer.status).toBe(422)
    expect(await answer.json()).toMatchObject({
      data: {
        code: 'invalid-estate',
        errors: [
          { code: 'host-bits', line: 4 },
          { code: 'unknown-key', line: 4 },
        ],
      },
    })
    expect(((await (await get('/api/estates')).json()) as unknown[]).length).toBe(before)
  })

  test('two estates of one name get two addresses', async () => {
    expect(await create('Same Name')).not.toBe(await create('Same Name'))
  })
})

describe('in the database', () => {
  const client = new pg.Client({ connectionString: process.env.DATABASE_URL })
  beforeAll(() => client.connect())
  afterAll(() => client.end())

  test('ranges stand in the database’s own type and can be asked for', async () => {
    const { rows } = await client.query(
      `select r.section, r.object_id from revision_ranges r join revisions v on v.id = r.revision_id join estates e on e.id = v.estate_id
       where e.slug = 'halite-ferries' and v.number = 3 and r.range >>= inet '10.40.1.10' order by masklen(r.range)`,
    )
    expect(rows).toEqual([
      { section: 'networks', object_id: 'ticketing' },
      { section: 'subnets', object_id: 'ticketing-web-1' },
    ])
  })

  test('a revision is never changed', async () => {
    await expect(client.query(`update revisions set author = 'somebody else'`)).rejects.toThrow(
      'a revision is never changed',
    )
  })

  test('the demo does not come back once it was loaded', async () => {
    expect((await client.query('select name from loaded_demos')).rows).toEqual([
      { name: 'halite-ferries' },
    ])
  })
})

describe('questions', () => {
  const trace = (body: unknown) => post('/api/estates/halite-ferries/head/trace', body)
  test('are answered with the same document as on the command line', async () => {
    expect(
      await (
        await trace({ from: 'interface:seat-plan-2', to: 'internet', protocol: 'tcp', port: 443 })
      ).json(),
    ).toMatchObject({
      verdict: 'blackholed',
      cause: { code: 'no-route', object: 'routeTables/ticketing-default' },
    })
  })
  test('that cannot be asked say what is there instead', async () => {
    const answer = await trace({ from: 'interface:seat-plan', to: 'internet', port: 443 })
    expect(answer.status).toBe(422)
    expect(await answer.json()).toMatchObject({
      data: {
        code: 'unknown-object',
        part: 'from',
        candidates: expect.arrayContaining(['interface:seat-plan-1']),
      },
    })
  })
  test('that fail come with what would mend them, tried against the whole estate', async () => {
    const answer = await post('/api/estates/halite-ferries/head/proposals', {
      from: 'interface:report-1',
      to: 'internet',
      port: 443,
    })
    const { proposals } = (await answer.json()) as {
      proposals: { harmless: boolean; costs: string[]; packets: { counts: { cut: number } } }[]
    }
    expect(proposals[0]).toMatchObject({ harmless: true, costs: [] })
    expect(proposals[0]!.packets.counts.cut).toBe(0)
    const refused = { from: 'interface:none', to: 'internet', port: 443 }
    expect((await post('/api/estates/halite-ferries/head/proposals', refused)).status).toBe(422)
    const unknown = { finding: '0123456789abcdef' }
    expect((await post('/api/estates/halite-ferries/head/proposals', unknown)).status).toBe(404)
  })
  test('many at once, in order', async () => {
    const answer = await post('/api/estates/halite-ferries/1/traces', [
      { from: 'interface:seat-plan-1', to: 'internet', port: 443 },
      { from: 'interface:none', to: 'internet', port: 443 },
    ])
    expect(await answer.json()).toMatchObject([
      { verdict: 'works' },
      { error: { code: 'unknown-object' } },
    ])
  })
})

test('findings and expectations, next hops and ways in', async () => {
  const found = (await (await get('/api/estates/halite-ferries/head/findings')).json()) as {
    findings: { code: string; anchor: string }[]
    expectations: { id: string; state: string }[]
  }
  expect(found.findings).toContainEqual(
    expect.objectContaining({ code: 'hole-dead-target', anchor: 'routeTables/ticketing-reports' }),
  )
  const { expectations } = (await (
    await get('/api/estates/halite-ferries/head/expectations')
  ).json()) as { expectations: { id: string; state: string }[] }
  expect(expectations.find((one) => one.id === 'pay-stays-home')?.state).toBe('holds')
  const hops = (await (
    await get('/api/estates/halite-ferries/head/hops?subnet=crew-roster-1')
  ).json()) as {
    subnet: string
    kinds: { ranges: { from: string }[] }[]
  }
  expect([hops.subnet, hops.kinds[0]!.ranges[0]!.from]).toEqual([
    'subnets/crew-roster-1',
    '0.0.0.0',
  ])
  const ways = (await (
    await get('/api/estates/halite-ferries/head/ways-in?subnet=ticketing-web-1')
  ).json()) as { ways: { from: string }[] }
  expect(ways.ways[0]!.from).toBe('internet')
  const entries = (await (
    await get('/api/estates/halite-ferries/head/entries?subnets=ticketing-web-1,ticketing-cards-1')
  ).json()) as {
    rows: { subnet: string; internet: { by: string }[] }[]
  }
  expect(entries.rows.map(({ subnet, internet }) => [subnet, internet[0]?.by])).toEqual([
    ['ticketing-web-1', 'gateways/ticketing-door'],
    ['ticketing-cards-1', undefined],
  ])
  expect((await get('/api/estates/halite-ferries/head/entries?subnets=none')).status).toBe(404)
  const turned =
    '/api/estates/halite-ferries/head/members?turned=entering&subnets=telemetry-gauges-1'
  const opened = (await (await get(`${turned}&column=sites&members=harbour-control`)).json()) as {
    members: string[]
    rows: { cells: { by: string }[][] }[]
  }
  expect([opened.members, opened.rows[0]!.cells[0]!.length > 0]).toEqual([
    ['harbour-control'],
    true,
  ])
  expect((await get(`${turned}&column=sites&members=none`)).status).toBe(404)
  for (const view of ['hops', 'ways-in']) {
    expect((await get(`/api/estates/halite-ferries/head/${view}`)).status).toBe(400)
    expect((await get(`/api/estates/halite-ferries/head/${view}?subnet=none`)).status).toBe(404)
  }
})

test('exits and the outline', async () => {
  const outline = (await (await get('/api/estates/halite-ferries/head/outline')).json()) as {
    counts: Record<string, number>
    ends: { end: string }[]
  }
  const exits = (await (await get('/api/estates/halite-ferries/head/exits')).json()) as {
    rows: { subnet: string }[]
  }
  expect(exits.rows).toHaveLength(outline.counts.subnets!)
  expect(outline.ends.map((e) => e.end)).toEqual(
    expect.arrayContaining([
      'internet',
      'interface:booking-1',
      'subnet:crew-desk-1',
      'party:fuel-broker',
      'site:harbour-control',
    ]),
  )
})

test('what files would change, without saving them', async () => {
  const slug = await create('Before After')
  const answer = await post(`/api/estates/${slug}/compare`, {
    files: files(`${estateText('Before After')}sites:\n  s: {}\n`),
  })
  expect(await answer.json()).toEqual({
    errors: [],
    warnings: [],
    base: 1,
    changes: [{ object: 'sites/s', kind: 'added', keys: [] }],
  })
})

test('every example can be brought in', async () => {
  const examples = (await (await get('/api/examples')).json()) as {
    name: string
    teaches: string
  }[]
  expect(examples.length).toBeGreaterThan(0)
  for (const { name, teaches } of examples) {
    expect(teaches.length).toBeGreaterThan(20)
    const file = await (await get(`/api/examples/${name}`)).json()
    expect(await (await post('/api/check', { files: [file] })).json()).toMatchObject({ errors: [] })
  }
})

describe('refusals', () => {
  const question = { from: 'internet', to: 'internet', port: 1 }
  test.each([
    ['an estate that is not there', () => get('/api/estates/none/head/exits'), 404],
    ['a revision that is not there', () => get('/api/estates/halite-ferries/99/exits'), 404],
    ['a revision that is no number', () => get('/api/estates/halite-ferries/first/exits'), 400],
    ['an example outside its folder', () => get('/api/examples/..%2F..%2Fpackage'), 400],
    ['no JSON', () => post('/api/check', '{'), 400],
    ['a body of another shape', () => post('/api/check', { files: 'x' }), 400],
    ['no files', () => post('/api/check', { files: [] }), 400],
    [
      'a port that is none',
      () => post('/api/estates/halite-ferries/head/trace', { ...question, port: 70000 }),
      400,
    ],
    ['another content type', () => post('/api/check', '{}', { 'content-type': 'text/plain' }), 415],
    [
      'a page of another address',
      () =>
        post('/api/check', { files: files('') }, { ...json, origin: 'http://elsewhere.example' }),
      403,
    ],
    [
      'an origin that is none',
      () => post('/api/check', { files: files('') }, { ...json, origin: 'null' }),
      403,
    ],
  ])('%s', async (_, request, status) => {
    const answer = await request()
    expect(answer.status).toBe(status)
    expect(await answer.json()).toMatchObject({
      data: { code: expect.any(String), message: expect.any(String) },
    })
  })
})

test('the demo’s history: three revisions, what differs between them, what came and went', async () => {
  type History = {
    number: number
    author: string
    counts: { leak: number; hole: number; weak: number; broken: number } | null
  }[]
  await get('/api/estates/halite-ferries/head/findings?count=1')
  const difference = (await (
    await get('/api/estates/halite-ferries/3/difference?since=2')
  ).json()) as {
    objects: { object: string; kind: string; keys: string[] }[]
    wayCount: number
    ways: { subnet: string; before: { way: string[] }; after: { way: string[] } }[]
  }
  expect(difference.objects).toEqual([
    { object: 'routeTables/crew-steered', kind: 'changed', keys: ['routes'] },
  ])
  expect(difference.ways[0]).toMatchObject({
    subnet: 'subnets/crew-roster-1',
    before: { way: ['peerings/crew-telemetry'] },
  })
  expect(difference.ways[0]!.after.way).toContain('firewalls/harbour-wall')
  const since = (await (
    await get('/api/estates/halite-ferries/3/findings-since?since=2')
  ).json()) as { come: { code: string }[]; gone: unknown[] }
  expect(since.come.map(({ code }) => code)).toEqual(
    expect.arrayContaining(['hole-no-state', 'leak-one-way-inspected']),
  )
  expect(since.gone).toEqual([])
  const history = (await (await get('/api/estates/halite-ferries/history')).json()) as History
  expect(history.map(({ number, author }) => [number, author])).toEqual([
    [3, 'R. Skua'],
    [2, 'M. Tern'],
    [1, 'M. Tern'],
  ])
  expect(history[0]!.counts!.hole).toBeGreaterThan(history[1]!.counts!.hole)
  for (const path of ['difference', 'findings-since']) {
    expect((await get(`/api/estates/halite-ferries/3/${path}`)).status).toBe(400)
    expect((await get(`/api/estates/halite-ferries/3/${path}?since=9`)).status).toBe(404)
  }
  expect((await get('/api/estates/none/history')).status).toBe(404)
})

test('what the far side sees, what space is carved into, and the map', async () => {
  const seen = (await (
    await get('/api/estates/halite-ferries/head/seen-as?to=party:fuel-broker')
  ).json()) as {
    allowlist: string[]
    addresses: { address: string; lasting: string; allowed: boolean; subnets: string[] }[]
  }
  expect(seen.addresses.filter(({ allowed }) => allowed)).toMatchObject([
    { address: '203.0.113.11', lasting: 'reserved', subnets: ['ticketing-app-1'] },
  ])
  expect((await get('/api/estates/halite-ferries/head/seen-as?to=party:none')).status).toBe(422)
  expect((await get('/api/estates/halite-ferries/head/seen-as')).status).toBe(400)
  const { networks } = (await (await get('/api/estates/halite-ferries/head/space')).json()) as {
    networks: { network: string; ranges: { prefix: string }[] }[]
  }
  expect(networks[0]).toMatchObject({
    network: 'hub',
    ranges: [{ prefix: '10.10.0.0/20' }, { prefix: '2001:db8:10::/56' }],
  })
  const map = (await (await get('/api/estates/halite-ferries/head/map')).json()) as {
    folds: boolean
    nodes: { ref: string }[]
  }
  expect([map.folds, map.nodes.some(({ ref }) => ref === 'firewalls/harbour-wall')]).toEqual([
    false,
    true,
  ])
  expect((await get('/api/estates/halite-ferries/9/map')).status).toBe(404)
})

test('expectations are proved before they are saved, and say where they cannot be read', async () => {
  const prove = async (
    text: string,
  ): Promise<{
    errors: { line: number; file: string }[]
    expectations: { id: string; state: string; says: string }[] | null
  }> => (await (await post('/api/estates/halite-ferries/head/prove', { text })).json()) as never
  expect(
    await prove(
      'expectations:\n  quiet: { from: subnets/crew-desk-1, to: internet, must: never-reach }\n',
    ),
  ).toMatchObject({
    errors: [],
    expectations: [{ id: 'quiet', state: 'broken', says: 'subnets/crew-desk-1 to internet' }],
  })
  expect(
    await prove(
      'expectations:\n  quiet: { from: subnets/none, to: internet, must: never-reach }\n',
    ),
  ).toMatchObject({
    errors: [{ line: 2, file: 'what is written here' }],
    expectations: null,
  })
  expect((await post('/api/estates/halite-ferries/head/prove', {})).status).toBe(400)
  expect((await post('/api/estates/none/head/prove', { text: 'x' })).status).toBe(404)
})
