import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import fc from 'fast-check'
import { readEstate, writeJson, type Estate, type Problem } from '../../src/index'

const demo = join(__dirname, '../../../demo')
const text = readdirSync(demo)
  .filter((name) => name.endsWith('.yaml'))
  .sort()
  .map((name) => readFileSync(join(demo, name), 'utf8'))
  .join('---\n')

interface Result {
  readonly estate: string | null
  readonly problems: readonly Problem[]
}
const inOrder = (estate: Estate): string =>
  JSON.stringify(estate, (_, value: unknown) =>
    value instanceof Map ? [...(value as Map<string, unknown>)] : value,
  )
function read(given: string): Result {
  const { estate, problems } = readEstate([{ name: 'a', text: given }])
  return { estate: estate && inOrder(estate), problems }
}

/** Past a million characters a file is read object by object. */
const PADDING = `${'# x'.padEnd(99, 'x')}\n`.repeat(10_100)

/** Damages that leave the layout of a file as it is. */
const DAMAGES: readonly ((text: string) => string)[] = [
  (t) => t,
  (t) => t.replace('behaviour: default-open', 'behavior: default-open'),
  (t) => t.replace('ranges: [10.44.1.0/24', 'ranges: [10.44.1.9/24'),
  (t) => t.replace('subnet: ticketing-web-1', 'subnet: ticketing-web-9'),
  (t) => t.replaceAll('direction: out', 'direction: outward'),
  (t) => t.replace('  nat-telemetry:', '  nat-ticketing:\n    kind: private\n  nat-telemetry:'),
  (t) =>
    t.replace(
      'kind: outbound-v6, network: telemetry',
      'kind: outbound-v6, network: telemetry, network: hub',
    ),
  (t) => t.replace('{ to: "::/0", via: drop }', '{ to: "::/0", via: drop'),
]

describe('a large file, read object by object, says the same as read in one piece', () => {
  test.each(DAMAGES.slice(0, -1).map((damage, index) => [index, damage] as const))(
    'damage %i',
    (_, damage) => {
      const given = damage(text)
      // The padding stands behind, so that positions stay.
      expect(read(`${given}${PADDING}`)).toEqual(read(given))
    },
  )
  test('a syntax error has its place there too', () => {
    const given = DAMAGES.at(-1)!(text)
    const line = given.split('\n').findIndex((l) => l.includes('via: drop') && !l.includes('}')) + 1
    const { estate, problems } = read(`${given}${PADDING}`)
    expect(estate).toBeNull()
    expect(problems.some((p) => p.code === 'syntax' && p.line >= line && p.line <= line + 2)).toBe(
      true,
    )
  })
  test('anchors reach from one object into another', () => {
    const anchored =
      'format: salt-trail/1\nname: x\nsites:\n  a: { ranges: &r [10.0.0.0/8] }\n  b: { ranges: *r }\n'
    expect(read(`${anchored}${PADDING}`)).toEqual(read(anchored))
  })
})

describe('strict JSON, read in one pass, says the same as read as YAML', () => {
  const json = writeJson(readEstate([{ name: 'a', text }]).estate!)
  const damages: readonly ((t: string) => string)[] = [
    (t) => t,
    (t) => t.replace('"behaviour"', '"behavior"'),
    (t) => t.replace('"10.44.1.0/24"', '"10.44.1.9/24"'),
    (t) => t.replace('"subnet":"ticketing-web-1"', '"subnet":"ticketing-web-9"'),
    (t) => t.replace('"title":"Hub"', '"title":"Hub","title":"Bub"'),
    (t) => t.replace('"crew-pay-1"', '"crew-desk-1"'),
    (t) => t.replace('"name": "Halite Ferries"', '"name": 7'),
    (t) => t.replace('"estateRules": [', '"estateRules": [ 1,'),
    (t) => t.replace('"sites": {', '"sites": [], "extra": {'),
    (t) => t.replace(/"ports":\[443\]/g, '"ports":[99999]'),
  ]
  test.each(damages.map((damage, index) => [index, damage] as const))('damage %i', (_, damage) => {
    const given = damage(json)
    // A comment behind it makes it YAML, and nothing else.
    expect(read(given)).toEqual(read(`${given}# YAML\n`))
  })
  test('whatever takes the place of a value or a key', () => {
    const tokens = [...json.matchAll(/"[^"]*"|\b\d+\b|true|false/g)]
    const instead = fc.constantFrom(
      '"x"',
      '"__proto__"',
      '"10.0.0.1/8"',
      '5',
      'null',
      '[]',
      '{}',
      '{"a":{"a":1}}',
      'true',
    )
    fc.assert(
      fc.property(fc.constantFrom(...tokens), instead, (token, value) => {
        const given = json.slice(0, token.index) + value + json.slice(token.index + token[0].length)
        try {
          JSON.parse(given)
        } catch {
          return
        }
        expect(read(given)).toEqual(read(`${given}# YAML\n`))
      }),
      { numRuns: 60 },
    )
  })
})
