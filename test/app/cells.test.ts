import { cellOf, wayText } from '~/views/exits/cells'
import { headline, passedText, rangesText, seenText } from '~/views/exits/way-words'
import { way } from './ways'

const lost = way({
  kind: 'lost',
  by: null,
  way: [],
  seenAs: [],
  cause: { code: 'no-route', object: 'routeTables/t' },
})

const found = (family: 'leak' | 'hole') => ({
  fingerprint: family,
  family,
  sentence: '',
  anchor: '',
  members: [],
  question: null,
})

test('a cell shows the worst of its ways, how many others, and the gravest mark', () => {
  const cell = cellOf(
    [
      way({ ranges: ['192.0.2.0/24'], by: 'nats/n', kind: 'translated' }),
      way({}),
      lost,
      way({ family: 6 }),
    ],
    [found('hole'), found('leak')],
  )
  expect(cell).toMatchObject({
    ...{ kind: 'lost', text: 'no route', next: 'door', others: 1, mark: 'leak' },
  })
  const dropped = { ...lost, cause: { code: 'drop-route', object: 'routeTables/t' } }
  const translated = way({ by: 'nats/n', kind: 'translated' })
  expect(cellOf([translated, way({ family: 6, ranges: ['2001:db8::/32'] }), dropped]).kind).toBe(
    'direct',
  )
  expect(cellOf([dropped, translated]).kind).toBe('translated')
  expect(cellOf([])).toMatchObject({ text: '–', mark: null, others: 0 })
})

test.each([
  [way({}), 'door'],
  [lost, 'no route'],
  [way({ kind: 'local', by: null, way: [] }), 'local'],
  [way({ kind: 'lost', cause: { code: 'nat-without-way-out', object: 'nats/n' } }), 'stuck NAT'],
  [way({ kind: 'lost', cause: { code: 'looped', object: 'nats/n' } }), 'ring'],
])('in a word or two', (given, text) => expect(wayText(given)).toBe(text))

test('the peek says it in full', () => {
  expect(headline('a', [way({}), lost], 'to the internet')).toBe(
    'a to the internet: two ways, one of them lost',
  )
  expect(headline('a', [lost], 'to the internet')).toBe('a to the internet: one way, lost')
  expect(passedText(way({ way: ['nats/n', 'gateways/door'] }))).toBe('n, then door')
  expect(passedText(lost)).toBe('No route at t covers the destination.')
  expect(passedText(way({ way: ['internet'] }))).toBe('the built-in door')
  expect(rangesText(way({ ranges: ['a/1', 'b/2', 'c/3', 'd/4'] }), false, 'internet')).toBe(
    'a/1, b/2, c/3 and 1 more',
  )
  expect(rangesText(way({}), false, 'internet')).toBe('IPv4, the rest')
  expect(rangesText(way({}), true, 'internet')).toBe('IPv4')
  expect(seenText(way({ seenAs: [] }))).toBe('its own address')
  expect(seenText(way({ seenAs: ['unpredictable'] }))).toBe('an address nobody can foresee')
})
