import { SEVERITIES, type Operation, type Trace } from '@salt-trail/core'
import type { ListedFinding } from '~/api/answers'
import { STEPS } from '~/guide/path'
import { FAMILIES, groupOf, GROUPINGS, groupTitle } from '~/views/findings/finding-words'
import { decidingBranch } from '~/views/trace/deciding-branch'
import { changeLine } from '~/consequences/change-line'
import { nameOf, packetLines, stopTitle } from '~/views/trace/stop-words'
import type { Stop } from '~/views/trace/align'
import { failureText } from '~/api/failure-text'

const packet = { src: '10.1.1.9', dst: '192.0.2.1', protocol: 'tcp', srcPort: 50000, dstPort: 443 }
const stop = (after: object): Stop =>
  ({ at: 'nats/tide', stations: [{ packet: { ...packet, ...after } }] }) as unknown as Stop

test('a place is called by its name alone', () => {
  expect([stopTitle(stop({})), nameOf('internet'), nameOf('firewalls/a/b')]).toEqual([
    'tide',
    'internet',
    'a/b',
  ])
})

test('a packet is shown where it begins and where it is changed, the changed side marked', () => {
  const begins = packetLines(stop({}), null)
  expect(begins.map(({ text, changed }) => [text, changed])).toEqual([
    ['10.1.1.9:50000', false],
    ['→ 192.0.2.1:443', false],
  ])
  expect(packetLines(stop({}), packet)).toEqual([])
  const translated = packetLines(stop({ src: '203.0.113.9' }), packet)
  expect(translated.map(({ changed }) => changed)).toEqual([true, false])
})

test('an IPv6 address with a port is put in brackets, and none without', () => {
  const six = { src: '2001:db8::1', dst: '2001:db8::2' }
  expect(packetLines(stop(six), null)[0]!.text).toBe('[2001:db8::1]:50000')
  expect(packetLines(stop({ ...six, srcPort: null }), null)[0]!.text).toBe('2001:db8::1')
})

test.each<[Operation, string]>([
  [{ op: 'remove', path: '/routeTables/out/routes/0' }, '− routeTables › out › routes › 0'],
  [
    { op: 'add', path: '/groups/a~1b/members/-', value: 'front' },
    '+ groups › a/b › members › -: front',
  ],
  [
    { op: 'replace', path: '/nats/n', value: { addresses: ['203.0.113.9'], serves: null } },
    '± nats › n: { addresses: [203.0.113.9], serves: null }',
  ],
])('a change in one line: %j', (change, line) => {
  expect(changeLine(change)).toBe(line)
})

test('every group of findings has a title, and a finding stands in one of each grouping', () => {
  const finding = { code: 'leak-direct', severity: 'high', network: null } as ListedFinding
  const single = GROUPINGS.filter((by) => by !== 'root-cause')
  expect(single.map((by) => groupOf(finding, by))).toEqual(['high', 'leak', null])
  for (const severity of SEVERITIES) expect(groupTitle(severity, 'severity').title).not.toBe('')
  for (const { family, title } of FAMILIES) expect(groupTitle(family, 'family').title).toBe(title)
  expect(groupTitle('shop', 'network').title).toBe('shop')
  expect(groupTitle(null, 'network').title).toBe('In no network')
})

test('the branch that gives the verdict decides; a trace without branches is its own', () => {
  const [works, blocked] = [{ verdict: 'works' }, { verdict: 'blocked' }]
  expect(decidingBranch({ ...blocked, branches: [works, blocked] } as unknown as Trace)).toBe(
    blocked,
  )
  const alone = { verdict: 'works', branches: [] } as unknown as Trace
  expect(decidingBranch(alone)).toBe(alone)
})

test('a failure is told in the server’s words, else in the request’s, else as no answer', () => {
  expect(failureText({ data: { data: { message: 'a' }, message: 'b' } })).toBe('a')
  expect(failureText({ data: { message: 'b' } })).toBe('b')
  expect(failureText({ statusCode: 500, message: 'c' })).toBe('c')
  expect(failureText({ statusCode: 500 })).toBe('The request failed.')
  expect(failureText(new Error('fetch failed'))).toContain('Is it running?')
})

test('the path through the demo leads to views that there are', () => {
  expect(
    STEPS.every(({ view }) => ['exits', 'trace', 'map', 'revisions', 'draft'].includes(view)),
  ).toBe(true)
  expect(new Set(STEPS.map(({ title }) => title)).size).toBe(STEPS.length)
})
