import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import Ajv2020 from 'ajv/dist/2020'
import fc from 'fast-check'
import { parse, parseAllDocuments } from 'yaml'
import {
  estateJsonSchema,
  readEstate,
  readWritten,
  writeJson,
  writeYaml,
  type Estate,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'

const root = join(__dirname, '../../..')
const filesIn = (folder: string): { name: string; text: string }[] =>
  readdirSync(join(root, folder))
    .filter((name) => name.endsWith('.yaml'))
    .sort()
    .map((name) => ({ name, text: readFileSync(join(root, folder, name), 'utf8') }))

function read(files: { name: string; text: string }[]): Estate {
  const { estate, problems } = readEstate(files)
  if (!estate) throw new Error(problems.map((p) => `${p.file}:${p.line} ${p.message}`).join('\n'))
  return estate
}

/** An estate with the order of everything in it, which equality of maps would pass over. */
const inOrder = (estate: Estate): string =>
  JSON.stringify(estate, (_, value: unknown) =>
    value instanceof Map ? [...(value as Map<string, unknown>)] : value,
  )

const id = fc.oneof(
  fc.constantFrom('a', '10', '2', '007', 'x/y', '__proto__', 'constructor', 'A.b_c-d'),
  fc.stringMatching(/^[A-Za-z0-9._\-/]{1,12}$/),
)
const text = fc.string({ unit: 'grapheme', maxLength: 30 })
const tags = fc.dictionary(fc.stringMatching(/^[a-z]{1,6}$/), text, { maxKeys: 3 })
const octet = fc.integer({ min: 0, max: 255 })
const network = fc.record(
  {
    title: text,
    note: text,
    tags,
    ranges: fc.uniqueArray(
      fc.tuple(octet, octet).map(([a, b]) => `10.${a}.${b}.0/24`),
      { maxLength: 3 },
    ),
    behaviour: fc.constantFrom('table-routed', 'default-open', 'priority-routed'),
    state: fc.constantFrom('up', 'pending', 'down', 'deleted'),
  },
  { requiredKeys: [] },
)
const site = fc.record(
  { ranges: fc.constant(['172.20.0.0/16']), internet: fc.boolean(), title: text },
  { requiredKeys: [] },
)
const rule = fc.record(
  {
    direction: fc.constantFrom('in', 'out'),
    protocol: fc.constantFrom('tcp', 'udp', 'any', 132),
    ports: fc.constant([443, '1024-65535']),
    peers: fc.constant(['any', { tag: 'a=b' }]),
  },
  { requiredKeys: ['direction'] },
)
const section = <T>(value: fc.Arbitrary<T>) =>
  fc.uniqueArray(fc.tuple(id, value), { maxLength: 5, selector: ([key]) => key })
const document = fc.record(
  {
    networks: section(network),
    sites: section(site),
    ruleSets: section(
      fc.record({ stateful: fc.boolean(), rules: fc.array(rule, { maxLength: 3 }) }),
    ),
  },
  { requiredKeys: [] },
)

/** JSON by hand, since a plain object would move ids of digits to the front. */
const jsonOf = (name: string, sections: Record<string, [string, unknown][]>): string =>
  `{"format":"salt-trail/1","name":${JSON.stringify(name)}${Object.entries(sections)
    .map(
      ([key, entries]) =>
        `,${JSON.stringify(key)}:{${entries.map(([k, v]) => `${JSON.stringify(k)}:${JSON.stringify(v)}`).join(',')}}`,
    )
    .join('')}}`

test('what is written is read back equal, with everything in the same order', () => {
  fc.assert(
    fc.property(
      text.filter((s) => s !== ''),
      document,
      (name, sections) => {
        const estate = read([
          { name: 'a.json', text: jsonOf(name, sections as Record<string, [string, unknown][]>) },
        ])
        expect(inOrder(read([{ name: 'b.json', text: writeJson(estate) }]))).toBe(inOrder(estate))
        expect(inOrder(read([{ name: 'c.yaml', text: writeYaml(estate) }]))).toBe(inOrder(estate))
        const unchecked = readWritten(writeJson(estate))
        const hasNumbers = Object.values(sections).some((entries) =>
          entries?.some(([key]) => /^(0|[1-9]\d*)$/.test(key)),
        )
        // A plain object would move ids of digits to the front: then it is left to the reader that
        // checks.
        expect(unchecked && inOrder(unchecked)).toBe(hasNumbers ? null : inOrder(estate))
      },
    ),
    { numRuns: runs(60) },
  )
})

test('the demo survives both notations', () => {
  const estate = read(filesIn('demo'))
  expect(inOrder(read([{ name: 'x', text: writeYaml(estate) }]))).toBe(inOrder(estate))
  expect(inOrder(read([{ name: 'x', text: writeJson(estate) }]))).toBe(inOrder(estate))
})

test('random estates are the same, read with checks or as they were written', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 2 ** 31 }), (seed) => {
      const text = JSON.stringify({
        format: 'salt-trail/1',
        name: 'Random',
        prices: { natHour: 1 },
        requiredTags: [],
        ...randomEstate(seed).estate,
      })
      const estate = read([{ name: 'made.json', text }])
      expect(inOrder(readWritten(writeJson(estate))!)).toBe(inOrder(estate))
    }),
    { numRuns: runs(20) },
  )
})

test('several documents of one file are merged like several files', () => {
  const files = filesIn('demo')
  const one = read([{ name: 'all.yaml', text: files.map((file) => file.text).join('\n---\n') }])
  expect(inOrder(one)).toBe(inOrder(read(files)))
})

test('any text is refused with a place or read, and never throws', () => {
  fc.assert(
    fc.property(
      fc.oneof(
        fc.string(),
        fc.json(),
        fc.string().map((s) => `format: salt-trail/1\nname: x\n${s}`),
      ),
      (given) => {
        const { estate, problems } = readEstate([{ name: 'any', text: given }])
        expect(estate !== null || problems.length > 0).toBe(true)
        for (const problem of problems) expect(problem.line).toBeGreaterThan(0)
      },
    ),
    { numRuns: runs(150) },
  )
})

test('a valid estate with one piece damaged never makes the reader throw', () => {
  const whole = filesIn('demo')
    .map((file) => file.text)
    .join('\n---\n')
  fc.assert(
    fc.property(
      fc.nat(whole.length - 1),
      fc.nat(40),
      fc.string({ maxLength: 5 }),
      (at, length, instead) => {
        readEstate([
          { name: 'damaged', text: whole.slice(0, at) + instead + whole.slice(at + length) },
        ])
      },
    ),
    { numRuns: runs(50) },
  )
})

describe('the JSON Schema', () => {
  const check = new Ajv2020({ strict: false }).compile(
    estateJsonSchema('https://salt-trail.example/schema'),
  )
  test.each(filesIn('examples'))('takes the example $name', ({ text: example }) => {
    expect(check(parse(example))).toBe(true)
  })
  test('takes the demo', () => {
    const merged = filesIn('demo')
      .flatMap((file) => parseAllDocuments(file.text))
      .reduce<Record<string, unknown>>((all, doc) => {
        for (const [key, value] of Object.entries(doc.toJS() as Record<string, object>))
          all[key] =
            typeof value === 'object' && !Array.isArray(value)
              ? { ...(all[key] as object), ...value }
              : value
        return all
      }, {})
    expect(check(merged)).toBe(true)
  })
  test('refuses an unknown key and a word that is none', () => {
    expect(check({ format: 'salt-trail/1', name: 'x', networks: { a: { colour: 'blue' } } })).toBe(
      false,
    )
    expect(
      check({ format: 'salt-trail/1', name: 'x', networks: { a: { behaviour: 'magic' } } }),
    ).toBe(false)
  })
})
