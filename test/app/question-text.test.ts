import fc from 'fast-check'
import {
  complete,
  joinQuestion,
  resolveEnd,
  showEnd,
  splitQuestion,
  type EndChoice,
} from '~/questions/question-text'

const choices: EndChoice[] = [
  { end: 'internet', id: 'internet', about: 'any public address outside' },
  {
    end: 'interface:booking-1',
    id: 'booking-1',
    about: 'host 10.40.1.10 ticketing-web-1 team=sales',
  },
  { end: 'interface:hub', id: 'hub', about: 'host 10.10.0.9' },
  { end: 'subnet:hub', id: 'hub', about: 'subnet 10.10.0.0/24' },
  { end: 'party:fuel-broker', id: 'fuel-broker', about: 'party 198.51.100.80/32' },
]

test('a whole question in one line is taken apart, and put together again', () => {
  expect(splitQuestion('booking-1 > fuel-broker tcp 443')).toEqual({
    from: 'booking-1',
    to: 'fuel-broker',
    over: 'tcp 443',
  })
  expect(splitQuestion('booking-1>fuel-broker')).toEqual({
    from: 'booking-1',
    to: 'fuel-broker',
    over: '',
  })
  expect(splitQuestion('booking-1')).toBeNull()
  expect(splitQuestion('a > b > c')).toBeNull()
  const word = fc.stringMatching(/^[a-z0-9:./@-]{1,12}$/)
  fc.assert(
    fc.property(
      word,
      word,
      fc.constantFrom('tcp 443', 'icmp', 'udp 53 from 4000'),
      (from, to, over) => {
        expect(splitQuestion(joinQuestion({ from, to, over }))).toEqual({ from, to, over })
      },
    ),
  )
})

test.each([
  ['booking-1', 'interface:booking-1'],
  ['BOOKING-1', 'interface:booking-1'],
  ['hub', null],
  ['subnet:hub', 'subnet:hub'],
  ['10.1.2.3', '10.1.2.3'],
  ['2001:db8::1', '2001:db8::1'],
  ['internet', 'internet'],
  ['api.fuel-broker.example', 'name:api.fuel-broker.example'],
  ['nothing', null],
  ['', null],
])('%s stands for %s', (text, end) => expect(resolveEnd(text, choices)).toBe(end))

test('an end is shown by its id where that names it alone', () => {
  expect(showEnd('interface:booking-1', choices)).toBe('booking-1')
  expect(showEnd('subnet:hub', choices)).toBe('subnet:hub')
  expect(showEnd('10.1.2.3', choices)).toBe('10.1.2.3')
})

test('completion: what begins with it first, then words of it, then anywhere, then what describes it', () => {
  expect(complete('b', choices).map((c) => c.id)).toEqual([
    'booking-1',
    'fuel-broker',
    'hub',
    'hub',
    'internet',
  ])
  expect(complete('sales', choices).map((c) => c.id)).toEqual(['booking-1'])
  expect(complete('198.51', choices).map((c) => c.id)).toEqual(['fuel-broker'])
  expect(complete('', choices, 2)).toHaveLength(2)
  expect(complete('zzz', choices)).toEqual([])
})
