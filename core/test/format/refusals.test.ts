import { countProblems, readEstate, type Problem } from '../../src/index'
import { BASE, HEAD, read } from './base'

test('everything wrong is told at once, in order', () => {
  const text = `${HEAD}networks:\n  a: { ranges: [10.0.0.1/8], colour: blue }\nsubnets:\n  s: { network: b, ranges: [10.0.0.0/33] }\nsties: {}\n`
  expect(read(text).map((p) => [p.line, p.code])).toEqual([
    [4, 'host-bits'],
    [4, 'unknown-key'],
    [6, 'bad-prefix'],
    [7, 'unknown-key'],
  ])
})

test('a route may lead to what is not there, everything else may not', () => {
  expect(
    read(
      `${HEAD}networks:\n  n: { ranges: [10.0.0.0/8] }\nrouteTables:\n  t: { network: n, routes: [{ to: 0.0.0.0/0, via: { nat: gone } }, { to: { prefixList: gone }, via: drop }] }\n`,
    ),
  ).toEqual([])
})

test('an inline firewall without a label: the error lists the labels there are', () => {
  const gate =
    'firewalls:\n  gate: { style: inline, network: shop, endpoints: { n1: { subnet: web }, n2: { subnet: web } } }\n'
  const route =
    'routeTables:\n  t: { network: shop, routes: [{ to: 0.0.0.0/0, via: { inspect: gate } }] }\n'
  const problems = read(BASE + gate + '---\n' + route)
  expect(problems).toMatchObject([
    { code: 'missing-endpoint-label', message: expect.stringContaining('one of gate/n1, gate/n2') },
  ])
  expect(read(BASE + gate + '---\n' + route.replace('inspect: gate', 'inspect: gate/n3'))).toEqual(
    [],
  )
})

describe('the character U+0000', () => {
  const at = (problems: readonly Problem[]) =>
    problems.map(({ code, line, column, object }) => ({ code, line, column, object }))
  test('is refused in any text of an object, with its place', () => {
    const text = `${HEAD}sites:\n  s: { title: "a\\0b", tags: { k: "\\u0000" } }\n`
    expect(at(read(text))).toEqual([
      { code: 'bad-text', line: 4, column: 15, object: 'sites/s' },
      { code: 'bad-text', line: 4, column: 34, object: 'sites/s' },
    ])
  })
  test('is refused in a key and in the name, in JSON', () => {
    const text =
      '{"format":"salt-trail/1","name":"a\\u0000",\n"sites":{"s":{"tags":{"k\\u0000":"v"}}}}'
    expect(at(read(text))).toEqual([
      { code: 'bad-text', line: 1, column: 33, object: null },
      { code: 'bad-text', line: 2, column: 23, object: 'sites/s' },
    ])
  })
  test('does not let a text through that only looks like it', () => {
    expect(read(`${HEAD}sites:\n  s: { title: 'a\\0b' }\n`)).toEqual([])
  })
})

describe('the head', () => {
  test('a name has at most 200 characters', () => {
    expect(read(`format: salt-trail/1\nname: ${'x'.repeat(200)}\n`)).toEqual([])
    expect(read(`format: salt-trail/1\nname: ${'x'.repeat(201)}\n`)).toMatchObject([
      { code: 'out-of-range', line: 2, column: 7 },
    ])
  })
  test.each([
    ['name: x\n', 'missing-key'],
    ['format: salt-trail/1\n', 'missing-key'],
    ['format: salt-trail/2\nname: x\n', 'bad-format'],
    ['format: [1]\nname: x\n', 'wrong-type'],
    ['', 'empty'],
    ['- a\n', 'wrong-type'],
  ])('%j', (text, code) => {
    expect(read(text).map((p) => p.code)).toContain(code)
  })
})

test('syntax errors have a place and do not end the reading', () => {
  const problems = read(
    `${HEAD}networks:\n  a: { ranges: [10.0.0.0/8 }\nsites:\n  s: { ranges: [1.2.3.4/8] }\n`,
  )
  expect(problems.some((p) => p.code === 'syntax' && p.line === 4)).toBe(true)
})

describe('limits', () => {
  const limits = { bytes: 1e6, subnets: 1, routes: 1, rules: 1, aliases: 3, depth: 10 }
  const code = (text: string): string[] =>
    readEstate([{ name: 'x', text }], limits).problems.map((p) => p.code)
  test('bytes', () => expect(code(`${HEAD}#${'x'.repeat(1e6)}`)).toEqual(['limit-bytes']))
  test('subnets', () =>
    expect(code(`${BASE}---\nsubnets:\n  b: { network: pier, ranges: [10.2.0.0/24] }\n`)).toEqual([
      'limit-subnets',
    ]))
  test('routes', () =>
    expect(
      code(
        `${HEAD}routeTables:\n  t: { routes: [{ to: 0.0.0.0/0, via: drop }, { to: "::/0", via: drop }] }\n`,
      ),
    ).toEqual(['limit-routes']))
  test('rules', () =>
    expect(
      code(`${HEAD}ruleSets:\n  t: { rules: [{ direction: in }, { direction: out }] }\n`),
    ).toEqual(['limit-rules']))
  test('aliases', () =>
    expect(
      code(`${HEAD}sites:\n  a: &x { ranges: [10.0.0.0/8] }\n  b: *x\n  c: *x\n  d: *x\n  e: *x\n`),
    ).toContain('limit-aliases'))
  test('depth', () =>
    expect(code(`${HEAD}sites:\n  a: ${'['.repeat(40)}${']'.repeat(40)}\n`)).toContain(
      'limit-depth',
    ))
  test('nesting that would exhaust any stack', () =>
    expect(code(`${HEAD}sites: ${'['.repeat(200_000)}`).length).toBeGreaterThan(0))
  test.each([
    ['{"sites":{"s":', 1013],
    ['sites: ', 1008],
  ])('JSON or YAML nested 100,000 deep is one problem with a place: %s', (head, column) => {
    const problems = readEstate([{ name: 'x', text: `${head}${'[['.repeat(50_000)}` }]).problems
    expect(problems).toMatchObject([{ code: 'limit-depth', line: 1, column }])
  })
  test('of 200,000 problems the first are told, and all are counted', () => {
    const networks = Array.from({ length: 200_000 }, (_, n) => `"i${n}":{"subnet":"gone"}`)
    const problems = read(`{"format":"salt-trail/1","name":"x","interfaces":{${networks.join()}}}`)
    expect(problems).toHaveLength(201)
    expect(countProblems(problems)).toBe(200_000)
    expect(problems[0]).toMatchObject({ code: 'dangling-reference', object: 'interfaces/i0' })
    expect(problems.at(-1)).toMatchObject({ code: 'more-problems', more: 199_800 })
    expect(problems.at(-1)!.message).toMatch(/^and 199800 more errors from here on/)
  })
  test('aliases within aliases do not explode', () => {
    const bomb = `${HEAD}a: &a [x, x]\nb: &b [*a, *a]\nc: &c [*b, *b]\nsites:\n  d: { title: [*c, *c, *c] }\n`
    expect(code(bomb)).toContain('limit-aliases')
  })
})

// Each of these took from seconds to minutes where a place was looked up for each complaint anew.
describe('texts that are made to be costly', () => {
  const many = <T>(count: number, make: (n: number) => T): T[] =>
    Array.from({ length: count }, (_, n) => make(n))
  const JSON_HEAD = { format: 'salt-trail/1', name: 'x' }

  test('thousands of bad values in one object, in JSON and in YAML', () => {
    const rule = { direction: 'in', ports: [99_999], peers: ['any'] }
    const rules = many(4_000, () => rule)
    const inJson = read(JSON.stringify({ ...JSON_HEAD, ruleSets: { s: { rules } } }))
    const lines = rules.map(() => '      - { direction: in, ports: [99999], peers: [any] }\n')
    const inYaml = read(`${HEAD}ruleSets:\n  s:\n    rules:\n${lines.join('')}`)
    for (const problems of [inJson, inYaml]) {
      expect(countProblems(problems)).toBe(4_000)
      expect(problems[1]).toMatchObject({ code: 'out-of-range', object: 'ruleSets/s' })
    }
    expect(inYaml[199]!.line).toBe(inYaml[0]!.line + 199)
  })

  test('thousands of bad keys in one map', () => {
    const wrong = Object.fromEntries(many(4_000, (n) => [`k${n}`, 1]))
    const problems = read(JSON.stringify({ ...JSON_HEAD, sites: { s: wrong } }))
    expect(countProblems(problems)).toBe(4_000)
  })

  test('aliases in a long document, which name the last anchor before them', () => {
    const text = `${HEAD}sites:\n${many(
      900,
      (n) => `  a${n}: { title: &t${n % 7} 't${n}' }\n  b${n}: { title: *t${n % 7} }\n`,
    ).join('')}`
    const { estate, problems } = readEstate([{ name: 'x', text }])
    expect(problems).toEqual([])
    for (let n = 0; n < 900; n++) expect(estate!.sites.get(`b${n}`)!.title).toBe(`t${n}`)
  })

  test('few aliases that stand for very much', () => {
    const wide = (name: string, inner: string): string =>
      `${name}: &${name} [${many(40, () => inner).join()}]\n`
    const text = `${HEAD}${wide('a', 'x')}${wide('b', '*a')}${many(900, (n) => `c${n}: *b\n`).join(
      '',
    )}sites: {}\n`
    expect(read(text).map(({ code }) => code)).toContain('unknown-key')
    const problems = read(
      `${HEAD}${wide('a', 'x')}${wide('b', '*a')}sites:\n${many(900, (n) => `  s${n}: { note: *b }\n`).join('')}`,
    )
    expect(problems.map(({ code }) => code)).toContain('limit-aliases')
  })

  test('planned ranges that all collide', () => {
    const plannedRanges = Object.fromEntries(
      many(3_000, (n) => [`p${n}`, { ranges: ['10.0.0.0/8'] }]),
    )
    const problems = read(JSON.stringify({ ...JSON_HEAD, plannedRanges }))
    expect(problems.map(({ severity }) => severity)).not.toContain('error')
    expect(problems).toHaveLength(201)
    expect(countProblems(problems)).toBeGreaterThan(3_000)
    expect(problems.map(({ message }) => message).join()).toMatch(/ and \d+ more/)
  })
})

test.each([
  ['title', 200],
  ['note', 2_000],
])('a %s has at most %d characters', (key, most) => {
  const site = (length: number) =>
    JSON.stringify({
      ...{ format: 'salt-trail/1', name: 'x' },
      sites: { s: { ranges: ['10.0.0.0/8'], [key]: 'x'.repeat(length) } },
    })
  expect(read(site(most))).toEqual([])
  expect(read(site(most + 1))).toMatchObject([
    {
      code: 'out-of-range',
      object: 'sites/s',
      message: expect.stringContaining(`at most ${most}`),
    },
  ])
})

test('values of tags are bounded', () => {
  const text = JSON.stringify({
    ...{ format: 'salt-trail/1', name: 'x' },
    sites: { s: { ranges: ['10.0.0.0/8'], tags: { kind: 'x'.repeat(2_001) } } },
  })
  expect(read(text)).toMatchObject([{ code: 'out-of-range', object: 'sites/s' }])
})
