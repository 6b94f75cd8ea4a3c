import fc from 'fast-check'
import { DEFAULT_LIMITS, readEstate } from '../../src/index'
import { inOnePass } from '../../src/format/read/json'
import { readJsonAtOnce } from '../../src/format/read/json-at-once'
import type { SourceDocument, SourceFile } from '../../src/format/read/source'
import { randomEstate } from '../random/estate'
import { runs } from '../random/runs'

const conversion = () => ({ limits: DEFAULT_LIMITS, problems: [], aliases: 0, expanded: 0 })
const inPass = (file: SourceFile): SourceDocument[] | null => inOnePass(file, conversion())
const atOnce = (text: string): SourceDocument[] | null => {
  return readJsonAtOnce({ name: 'made.json', text }, conversion())
}

/** Everything a document says of itself, its places with it. */
const told = (documents: readonly SourceDocument[] | null) =>
  documents?.map(({ at, sections }) => ({
    at,
    sections: [...(sections ?? [])].map((section) => {
      const { name, at, valueAt, shape } = section
      const whole = section.whole()
      const entries = [...section.entries()].map(({ key, value, at, find }) => [
        key,
        value,
        at(),
        find([], 'key'),
        find(['ranges', 0], 'value'),
        find(['nothing'], 'key'),
      ])
      return {
        name,
        at,
        valueAt,
        shape,
        whole: [whole.key, whole.value, whole.at(), whole.find(['natHour'], 'key')],
        entries,
      }
    }),
  }))

const texts = fc.oneof(
  fc.integer({ min: 0, max: 2 ** 31 }).chain((seed) =>
    fc.constantFrom(0, 2).map((indent) =>
      JSON.stringify(
        {
          format: 'salt-trail/1',
          name: 'Made "up": \\ {}',
          prices: { natHour: 1 },
          estateRules: [],
          ...randomEstate(seed).estate,
        },
        null,
        indent,
      ),
    ),
  ),
  fc.json(),
)

test('JSON read at once says what JSON read in one pass says, and where', () => {
  let read = 0
  fc.assert(
    fc.property(texts, (text) => {
      const fast = atOnce(text)
      if (fast === null) return
      read++
      expect(told(fast)).toEqual(told(inPass({ name: 'made.json', text })))
    }),
    { numRuns: runs(30), seed: 74 },
  )
  expect(read).toBeGreaterThan(20)
})

test.each([
  ['a key twice', '{"name": "a", "name": "b"}'],
  ['a key twice deep inside', '{"networks": {"n": {"ranges": [], "tags": {"a": "1", "a": "2"}}}}'],
  [
    'ids that are numbers, which would lose their order',
    '{"networks": {"b": {}, "10": {}, "9": {}}}',
  ],
  ['a list', '[1]'],
  ['a comment', '{"name": "a" /* b */}'],
  ['something behind it', '{"name": "a"} {}'],
  ['nesting past the limit', `{"networks": ${'{"a":'.repeat(70)}1${'}'.repeat(70)}}`],
])('%s is left to those who look closer', (_, text) => expect(atOnce(text)).toBeNull())

test('colons and quotes within texts are no names of keys', () => {
  expect(
    atOnce(String.raw`{"name": "a\": b", "networks": {"n": {"title": "\\\": {\"x\": 1}"}}}`),
  ).not.toBeNull()
})

test('a problem in large JSON has its line and column', () => {
  const text = JSON.stringify(
    { format: 'salt-trail/1', name: 'Made up', networks: { n: { ranges: ['10.0.0.1/8'] } } },
    null,
    2,
  )
  const { problems } = readEstate([{ name: 'made.json', text }])
  expect(problems).toMatchObject([{ file: 'made.json', line: 7, column: 9, object: 'networks/n' }])
})
