import { estateJsonSchema } from '@salt-trail/core'
import type { Objects } from '~/api/answers'
import { seenTogether } from '~/consequences/seen-together'
import { wordsOf } from '~/views/draft/completion'
import type { FieldSchema } from '~/views/draft/field-schema'
import { branchOf, fieldFor, fieldsFor, withKey } from '~/views/draft/fields'
import { termsOf, termsText } from '~/views/draft/terms'
import { wordsIn } from '~/views/draft/words-in'
import { MOVES, moveOf } from '~/views/draft/moves'
import { choicesFor } from '~/views/draft/reference-fields'
import { expectationQuery } from '~/views/expectations/written'

const objects = {
  sections: [
    { section: 'networks', ids: ['hall'], more: 0 },
    { section: 'publicAddresses', ids: ['203.0.113.9'], more: 0 },
  ],
  zones: [
    { region: 'north', zone: 'z1' },
    { region: 'south', zone: 'z1' },
  ],
} as unknown as Objects

test('a key of the format is offered the ids that can stand there', () => {
  expect(choicesFor('subnets', 'network', objects)).toEqual(['hall'])
  expect(choicesFor('nats', 'addresses', objects)).toEqual(['203.0.113.9'])
  expect(choicesFor('interfaces', 'addresses', objects)).toBeNull()
  expect(choicesFor('subnets', 'zone', objects)).toEqual(['z1'])
  expect(choicesFor('subnets', 'note', objects)).toBeNull()
})

const schema = {
  required: ['network'],
  properties: {
    network: { type: 'string' },
    ranges: { type: 'array', items: { type: 'string' } },
    state: { enum: ['up', 'down'] },
    learned: { type: 'boolean' },
    order: { type: 'integer' },
    routes: {
      type: 'array',
      items: {
        type: 'object',
        properties: { via: { anyOf: [{ type: 'string' }, { type: 'object' }] } },
      },
    },
    rules: { type: 'array', items: { type: 'object', properties: { direction: {} } } },
    placement: { type: 'object', properties: { subnet: { type: 'string' } } },
    attachments: {
      type: 'object',
      additionalProperties: { type: 'object', properties: { network: { type: 'string' } } },
    },
    listeners: { type: 'array', items: { type: 'object', properties: { port: {} } } },
    learn: {
      anyOf: [
        { type: 'string', enum: ['all', 'none'] },
        { type: 'array', items: { type: 'string' } },
      ],
    },
    protocol: { anyOf: [{ type: 'string', enum: ['tcp'] }, { type: 'integer' }] },
    ports: { type: 'array', items: { anyOf: [{ type: 'integer' }, { type: 'string' }] } },
    from: { type: 'array', items: { anyOf: [{ type: 'string' }, { type: 'object' }] } },
    anything: {},
    style: { const: 'routed' },
    tags: { type: 'object' },
  },
}

test('each key of an object is edited by the field that fits it', () => {
  const fields = fieldsFor(schema, {}, (key) => choicesFor('subnets', key, objects))
  expect(fields.map(({ key, kind }) => [key, kind])).toEqual([
    ['network', 'id'],
    ['ranges', 'texts'],
    ['state', 'choice'],
    ['learned', 'yes-no'],
    ['order', 'number'],
    ['routes', 'routes'],
    ['rules', 'rules'],
    ['placement', 'object'],
    ['attachments', 'map'],
    ['listeners', 'list'],
    ['learn', 'all-or'],
    ['protocol', 'value'],
    ['ports', 'values'],
    ['from', 'terms'],
    ['anything', 'text-only'],
  ])
  expect(fields[0]).toMatchObject({ required: true, choices: ['hall'] })
  const either: FieldSchema = {
    oneOf: [
      { properties: { style: { const: 'a' } } },
      { properties: { style: { const: 'b' }, x: {} } },
    ],
  }
  expect(branchOf(either, { style: 'b' })).toBe(either.oneOf![1])
})

test('where an object stands among words, the text is left to edit it', () => {
  const kindOf = (from: unknown): string | undefined =>
    fieldsFor(schema, { from }, () => null).find(({ key }) => key === 'from')?.kind
  expect(kindOf(['10.0.0.0/8'])).toBe('terms')
  expect(kindOf(['10.0.0.0/8', { prefixList: 'sites' }])).toBe('terms')
  expect(kindOf(['10.0.0.0/8', { any: ['internet'] }])).toBe('text-only')
  expect(kindOf([{ network: 'hall', role: 'private' }])).toBe('text-only')
})

describe('words and objects of one key', () => {
  const published = estateJsonSchema('test') as FieldSchema
  const schemaAt = (section: string, key: string): FieldSchema => {
    const own = published.properties![section]!
    const object = own.items ?? (own.additionalProperties as FieldSchema)
    return object.properties![key]!
  }
  const terms = (section: string, key: string) => fieldFor(key, schemaAt(section, key), null).terms!

  test('stand in a form as the format has them', () => {
    const from = terms('expectations', 'from')
    for (const [text, value] of [
      ['internet', 'internet'],
      ['tag:scope=cards', { tag: 'scope=cards' }],
      ['role:private, networks/hall', [{ role: 'private' }, 'networks/hall']],
      ['2001:db8::/32', '2001:db8::/32'],
    ] as const) {
      expect(termsOf(from, text)).toEqual(value)
      expect(termsText(value)!.join(', ')).toBe(text)
    }
    expect(termsOf(from, ' ')).toBeUndefined()
  })

  test('stand in a list where one alone may not stand', () => {
    const appliesTo = terms('estateRules', 'appliesTo')
    expect(termsOf(appliesTo, 'all')).toBe('all')
    expect(termsOf(appliesTo, 'networks/hall')).toEqual(['networks/hall'])
    expect(termsOf(appliesTo, 'region:north')).toEqual({ region: 'north' })
    expect(termsOf(terms('estateRules', 'peers'), 'prefixList:offices')).toEqual([
      { prefixList: 'offices' },
    ])
  })

  test('of a text with spaces are left to the text', () => {
    expect(termsText([{ tag: 'team=night shift' }])).toBeNull()
    expect(termsText({ any: ['internet'] })).toBeNull()
  })
})

test('a value that a field cannot show is left to the text', () => {
  const kindOf = (key: string, now: unknown): string | undefined =>
    fieldsFor(schema, { [key]: now }, () => null).find((one) => one.key === key)?.kind
  for (const [key, now] of [
    ['routes', 5],
    ['routes', [{ to: null }]],
    ['rules', [{ peers: 'any' }]],
    ['rules', [{ peers: [null] }]],
    ['placement', 'edge'],
    ['attachments', ['a']],
    ['listeners', { port: 1 }],
    ['ports', [{ from: 1 }]],
    ['network', {}],
  ] as const)
    expect([key, now, kindOf(key, now)]).toEqual([key, now, 'text-only'])
  expect(kindOf('routes', [{ to: '10.', via: null }])).toBe('routes')
})

test('an empty field takes its key out', () => {
  expect(withKey({ placement: { subnet: 'a' } }, 'placement', {})).toEqual({})
  expect(withKey({ note: 'x', network: 'hall' }, 'note', '')).toEqual({ network: 'hall' })
  expect(withKey({}, 'ranges', [])).toEqual({})
  expect(withKey({}, 'order', 0)).toEqual({ order: 0 })
  expect(wordsIn(' 10.0.0.0/8, 10.1.0.0/16 ')).toEqual(['10.0.0.0/8', '10.1.0.0/16'])
})

test('completion knows the keys of a schema, and the words under each', () => {
  const words = wordsOf({
    properties: { state: { enum: ['up', 'down'] }, routes: { items: { properties: { to: {} } } } },
  })
  expect([...words.keys()]).toEqual(['state', 'routes', 'to'])
  expect([...words.get('state')!]).toEqual(['up', 'down'])
})

const kind = (name: string) => MOVES.find((one) => one.name === name)!

test('a move is made of its form once nothing is missing', () => {
  expect(moveOf(kind('way-out'), { by: 'one' })).toBeNull()
  expect(
    moveOf(kind('way-out'), { subnets: ['a'], by: 'one', addresses: '203.0.113.9, 203.0.113.8' }),
  ).toEqual({
    move: 'way-out',
    subnets: ['a'],
    by: 'one',
    addresses: ['203.0.113.9', '203.0.113.8'],
  })
  expect(moveOf(kind('join'), { where: 'region:north' })).toEqual({
    ...{ move: 'join', hub: null, members: [], where: 'region:north' },
  })
  expect(
    moveOf(kind('carve'), { network: 'n', range: '10.0.0.0/8', length: '24', roles: ['public'] }),
  ).toMatchObject({ length: 24, zones: [] })
  expect(moveOf(kind('clean-up'), {})).toEqual({ move: 'clean-up' })
  expect(moveOf(kind('fail'), { failing: [] })).toBeNull()
})

test('partners that see the same subnets alike are told together, and no others', () => {
  const change = (party: string, subnet: string, after: string, allowed: boolean | null) => ({
    ...{ party, subnet: `subnets/${subnet}`, before: [], after: [after], allowed },
  })
  const told = seenTogether([
    change('bank', 'a', '203.0.113.1', true),
    change('bank', 'b', '203.0.113.1', true),
    change('mill', 'a', '203.0.113.1', true),
    change('mill', 'b', '203.0.113.1', true),
    change('mill', 'c', '203.0.113.1', false),
  ])
  expect(told.map(({ parties, subnets, isMissing }) => [parties, subnets, isMissing])).toEqual([
    [['bank', 'mill'], ['subnets/a', 'subnets/b'], false],
    [['mill'], ['subnets/c'], true],
  ])
})

test('a question becomes the words of an expectation', () => {
  const asked = { from: 'interface:till', to: '198.51.100.7', protocol: 'tcp', port: 443 }
  expect(expectationQuery(asked, 'reach')).toEqual({
    ...{ write: '1', from: 'interfaces/till', to: '198.51.100.7/32', over: 'tcp 443' },
    must: 'reach',
  })
  expect(
    expectationQuery({ from: 'site:pier', to: 'internet', protocol: 'icmp', port: null }, 'pass'),
  ).toMatchObject({ from: 'site pier', to: 'internet', over: 'icmp' })
})
