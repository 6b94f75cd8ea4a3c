import {
  apply,
  between,
  compile,
  objectPage,
  pathOfRef,
  readObject,
  referencesOf,
  shadowing,
  writeObject,
} from '../../src/index'
import { estateOfJson } from '../random/read'

const estate = estateOfJson({
  networks: { hall: { ranges: ['10.9.0.0/16'] }, yard: { ranges: ['10.8.0.0/16'] } },
  routeTables: {
    out: { network: 'hall', routes: [{ to: '0.0.0.0/0', via: { nat: 'tide' } }] },
  },
  gateways: {
    door: { kind: 'internet', network: 'hall' },
    gate: { kind: 'internet', network: 'yard' },
  },
  nats: { tide: { network: 'hall', placement: { subnet: 'edge' } } },
  subnets: {
    edge: { network: 'hall', ranges: ['10.9.0.0/24'] },
    desk: { network: 'hall', ranges: ['10.9.1.0/24'], routeTable: 'out' },
  },
  interfaces: { wall: { subnet: 'edge', addresses: ['10.9.0.4'], forwards: true } },
})
const model = compile(estate)
const page = (ref: string) => objectPage(model, referencesOf(model), ref)

test('an object says what it refers to, who refers to it and whom it serves', () => {
  expect(page('nats/tide')).toMatchObject({
    refersTo: ['networks/hall', 'subnets/edge'],
    referredBy: ['routeTables/out'],
    serves: ['desk'],
    canFail: true,
  })
  expect(page('routeTables/out')).toMatchObject({ serves: ['desk'], canFail: false })
  expect(page('nats/gone')).toBeNull()
  expect(page('nowhere/tide')).toBeNull()
})

test('a route of a table is offered what can be a target there', () => {
  expect(page('routeTables/out')!.targets.map(({ says }) => says)).toEqual([
    'drop',
    'internet',
    'local',
    'gateways/door',
    'nats/tide',
    'interfaces/wall',
  ])
})

test('a new route says what it wins over and what wins over it', () => {
  const routes = ['0.0.0.0/0', '10.0.0.0/8', '10.1.0.0/16', '::/0'].map((to) => ({
    to,
    via: 'drop' as const,
  }))
  expect(shadowing(routes, '10.0.0.0/8')).toEqual({
    shadows: ['0.0.0.0/0'],
    shadowedBy: ['10.1.0.0/16'],
  })
  expect(shadowing(routes, 'nonsense')).toEqual({ shadows: [], shadowedBy: [] })
})

describe('the text of an object', () => {
  test('is read back as it was written', () => {
    const table = estate.routeTables.get('out')
    expect(readObject('routeTables', writeObject(table))).toEqual({
      value: table,
      written: table,
      problems: [],
    })
  })

  test.each([
    ['network: hall\ncolour: blue\n', 'colour', 'is no key of this object'],
    ['network: hall\nranges: [10.9.0.1/24]\n', '10.9.0.1/24', 'has host bits set'],
    ['network: [hall\n', '', 'flow'],
    ['just a word\n', 'just', 'an object is a map'],
  ])('%j is marked where it is wrong', (text, at, says) => {
    const { value, problems } = readObject('subnets', text)
    expect(value).toBeUndefined()
    const problem = problems.find(({ message }) => message.toLowerCase().includes(says))
    expect(problem).toBeDefined()
    expect(text.slice(problem!.from, problem!.to)).toContain(at === 'colour' ? '' : at)
  })
})

describe('a section that is edited as one', () => {
  const rules = [
    {
      order: 10,
      direction: 'in',
      action: 'deny',
      protocol: 'tcp',
      ports: [22],
      peers: [{ prefixList: 'offices' }],
      appliesTo: ['networks/hall'],
    },
  ]
  const whole = compile(
    estateOfJson({
      networks: { hall: { ranges: ['10.9.0.0/16'] } },
      prefixLists: { offices: { ranges: ['198.51.100.0/24'] } },
      estateRules: rules,
      prices: { currency: 'EUR', natHour: 0.05 },
    }),
  )
  const pageOf = (ref: string) => objectPage(whole, referencesOf(whole), ref)

  test('has a page of its own, to which its entries lead', () => {
    expect(pageOf('prices')).toMatchObject({
      ref: 'prices',
      text: expect.stringMatching(/natHour/),
    })
    expect(pageOf('estateRules/10')).toMatchObject({
      ref: 'estateRules',
      value: rules,
      refersTo: ['prefixLists/offices', 'networks/hall'],
    })
    expect(pageOf('prefixLists/offices')!.referredBy).toEqual(['estateRules'])
    expect([pageOf('quotas'), pageOf('requiredTags')]).toEqual([null, null])
  })

  test('is read as it is written, and by its own schema', () => {
    expect(readObject('estateRules', pageOf('estateRules')!.text)).toMatchObject({
      value: rules,
      problems: [],
    })
    expect(readObject('prices', 'natHour: 2').value).toEqual({ natHour: 2 })
    expect(readObject('estateRules', 'order: 10').problems).toMatchObject([
      { message: 'estateRules is a list' },
    ])
    const text = '- { order: 10, direction: up, action: deny }'
    const [problem] = readObject('estateRules', text).problems
    expect(text.slice(problem!.from, problem!.to)).toBe('up')
    expect(readObject('quotas', 'routesPerTable: -1').problems).toHaveLength(1)
  })

  test('is changed in place, added and taken out', () => {
    const { estate: before } = whole
    const edited = between(
      rules,
      [
        { ...rules[0], order: 20 },
        { order: 30, direction: 'out', action: 'allow' },
      ],
      pathOfRef('estateRules'),
    )
    expect(edited.map(({ op, path }) => [op, path])).toEqual([
      ['replace', '/estateRules/0/order'],
      ['add', '/estateRules/1'],
    ])
    const change = [
      ...edited,
      { op: 'remove', path: '/prices' },
      { op: 'add', path: '/quotas', value: { routesPerTable: 40 } },
    ] as const
    const applied = apply(before, change)
    expect(applied).toMatchObject({
      estate: { prices: null, quotas: { routesPerTable: 40 } },
    })
  })
})
