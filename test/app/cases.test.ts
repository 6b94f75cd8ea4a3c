import type { Case } from '@salt-trail/core'
import { caseName, caseText, chosenCase, headlineOf } from '~/views/trace/cases'

const one = (family: 4 | 6, more: Partial<Case> = {}): Case => ({
  ...{ family, ports: { from: 443, to: 443 }, verdict: 'works', cause: null },
  ...{ seenAs: [], way: [], wayBack: [], leavesBy: null },
  question: { from: 'a', to: 'b', protocol: 'tcp', port: 443, sourcePort: 50000 },
  ...more,
})
const lost: Partial<Case> = {
  verdict: 'blackholed',
  cause: { code: 'no-route', object: 'routeTables/out', direction: 'forward', station: 1 },
}
const at = (from: number, to: number) => ({ ports: { from, to } })

test('the worst is looked at first, or what the address names', () => {
  const cases = [one(4, at(1, 9)), one(4, { ...lost, ...at(10, 19) }), one(6, at(1, 19))]
  expect(chosenCase(cases, { family: '', port: '' })).toBe(cases[1])
  expect(chosenCase(cases, { family: '6', port: '' })).toBe(cases[2])
  expect(chosenCase(cases, { family: '4', port: '5' })).toBe(cases[0])
  expect(chosenCase(cases, { family: '9', port: '5' })).toBe(cases[1])
  expect(chosenCase([], { family: '', port: '' })).toBeNull()
})

test('one verdict never hides the other family', () => {
  expect(headlineOf({ cases: [one(4), one(6)] })).toBe('Works, there and back')
  expect(headlineOf({ cases: [one(4, lost), one(6)] })).toBe(
    'IPv4: lost on the way · IPv6: works, there and back',
  )
  expect(headlineOf({ cases: [one(4, { way: ['firewalls/wall'] }), one(6)] })).toBe(
    'Works, there and back, but IPv6 does not pass wall',
  )
  expect(headlineOf({ cases: [one(4, at(1, 9)), one(4, { ...lost, ...at(10, 19) })] })).toBe(
    'Differs by port',
  )
})

test('a case is called by what tells it from the others', () => {
  const cut = { cases: [one(4, at(1, 9)), one(4, at(10, 10)), one(6)], more: null }
  expect(cut.cases.map((each) => caseName(each, cut))).toEqual([
    'IPv4, ports 1-9',
    'IPv4, port 10',
    'IPv6',
  ])
  const alone = { cases: [one(4, at(1, 9)), one(4, at(10, 10))], more: null }
  expect(caseName(alone.cases[0]!, alone)).toBe('ports 1-9')
})

test('a case says why it fails, or what it passes and is seen as', () => {
  expect(caseText(one(4, lost))).toContain('Lost on the way. ')
  expect(
    caseText(
      one(4, { way: ['firewalls/wall', 'internet'], seenAs: ['203.0.113.9', 'unpredictable'] }),
    ),
  ).toBe('Works, there and back, by wall, then the built-in door, seen as 203.0.113.9')
})
