import { aboutFinding, estateJsonSchema, FINDING_CODES, readEstate } from '@salt-trail/core'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { kindsOf, tourParts, typeText } from '~/help/format-reference'
import { keyMeans } from '~/help/key-words'

const text = readFileSync(join(__dirname, '../../examples/every-section.yaml'), 'utf8')
const schema = estateJsonSchema('test') as { properties: Record<string, object> }

test('the annotated example is valid, and has every section of the format with a word on it', () => {
  expect(readEstate([{ name: 'every-section.yaml', text }]).problems).toEqual([])
  const parts = tourParts(text)
  expect(parts.map(({ section }) => section).sort()).toEqual(Object.keys(schema.properties).sort())
  const silent = parts.filter(
    ({ says, section }) => says === '' && !['name', 'requiredTags', 'quotas'].includes(section),
  )
  expect(silent).toEqual([])
  expect(parts.map(({ text: part }) => part).join('\n')).not.toMatch(/^#/m)
})

const fieldsOf = (section: string) => kindsOf(schema, section).flatMap(({ fields }) => fields)

test('the keys of every section are those of the schema, in words', () => {
  expect(fieldsOf('gateways')).toEqual(
    expect.arrayContaining([
      { key: 'kind', required: true, type: 'internet | outbound-v6 | private' },
      { key: 'network', required: false, type: 'id' },
    ]),
  )
  expect(fieldsOf('estateRules').map(({ key }) => key)).toContain('appliesTo')
  expect(kindsOf(schema, 'none')).toEqual([])
  expect(kindsOf(schema, 'firewalls').map(({ title }) => title)).toEqual([
    'style: routed',
    'style: inline',
  ])
  expect(
    [{ type: 'array', items: { type: 'boolean' } }, { type: 'object' }, { const: 'all' }, {}].map(
      typeText,
    ),
  ).toEqual(['list of true | false', 'map', 'all', 'anything'])
})

test('every key of every section and kind has a line of its own', () => {
  const silent = Object.keys(schema.properties).flatMap((section) =>
    fieldsOf(section).flatMap(({ key }) =>
      keyMeans(section, key) === '' ? [`${section}.${key}`] : [],
    ),
  )
  expect(silent).toEqual([])
})

test('every code of a finding explains itself in a sentence or two', () => {
  for (const code of FINDING_CODES) {
    const about = aboutFinding(code)
    expect([code, about.endsWith('.'), about.split('. ').length <= 3]).toEqual([code, true, true])
  }
})
