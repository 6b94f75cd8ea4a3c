import type { Problem } from '@salt-trail/core'
import { nameIn, withSuggestion } from '~/views/bring-in/suggested'

const problem = (line: number, column: number, suggestion: string): Problem => ({
  ...{ code: 'x', message: 'x', file: 'a', object: null, severity: 'error' },
  ...{ line, column, suggestion },
})

test.each([
  ['subnets:\n  a: { netwrk: hall }', problem(2, 8, 'network'), 'subnets:\n  a: { network: hall }'],
  ['a:\n  netwrk: hall\n', problem(2, 3, 'network'), 'a:\n  network: hall\n'],
  [
    'ranges: [10.1.0.1/16, 10.2.0.0/16]',
    problem(1, 10, '10.1.0.0/16'),
    'ranges: [10.1.0.0/16, 10.2.0.0/16]',
  ],
  ['ranges: [2001:db8::1/32]', problem(1, 10, '2001:db8::/32'), 'ranges: [2001:db8::/32]'],
  ['{"a": {"netwrk": "hal"}}', problem(1, 8, 'network'), '{"a": {"network": "hal"}}'],
  ["via: { nat: 'nat 1' }", problem(1, 13, 'nat-1'), "via: { nat: 'nat-1' }"],
])('the suggestion is put where the problem is: %s', (text, one, mended) =>
  expect(withSuggestion(text, one)).toBe(mended),
)

test('the estate is called as its files call it', () => {
  const file = (text: string) => [{ name: 'a', text }]
  expect(nameIn(file('format: x\nname: Halite Ferries\n'))).toBe('Halite Ferries')
  expect(nameIn(file('{\n  "name": "Quay",\n  "networks": {}\n}'))).toBe('Quay')
  expect(nameIn(file('networks: {}'))).toBe('')
})
