import { aboutOf, fitted, rangesText, spokenText } from '~/views/map/mark-words'
import type { PlacedNode } from '~/views/map/layout'

const mark = (
  about: string,
  kind = 'network',
  stands: readonly string[] = [],
): PlacedNode['node'] =>
  ({
    ref: 'networks/hub',
    name: 'hub',
    kind,
    about,
    stands,
    up: true,
  }) as unknown as PlacedNode['node']

test('of several ranges the first is written, with how many more there are', () => {
  expect(rangesText('10.1.0.0/16')).toBe('10.1.0.0/16')
  expect(rangesText('10.1.0.0/16, 10.2.0.0/16, 2001:db8::/56')).toBe('10.1.0.0/16 +2')
})

test('a mark says what it is', () => {
  expect(aboutOf(mark('', 'internet'))).toBe('outside')
  expect(aboutOf(mark('public', 'nat'))).toBe('nat public')
  expect(aboutOf(mark('12 sites', 'site', ['sites/a']))).toBe('12 sites, folded')
  expect(aboutOf(mark('10.1.0.0/16'))).toBe('10.1.0.0/16')
  expect(aboutOf(mark('9 networks, 4 subnets each', 'networks', ['networks/a']))).toBe(
    '9 networks, 4 subnets each',
  )
})

test('a screen reader hears all ranges and what a mark is joined to', () => {
  expect(spokenText(mark('10.1.0.0/16, 10.2.0.0/16'), true, ['gateways/door'])).toBe(
    'hub 10.1.0.0/16 +1, network, 10.1.0.0/16, 10.2.0.0/16; joined to door',
  )
  expect(spokenText(mark('public', 'nat'), false, [])).toBe('hub nat public')
})

test('a text that does not fit is cut with an ellipsis', () => {
  expect(fitted('harbour-wall', 100)).toBe('harbour-wall')
  expect(fitted('a-rather-long-name-of-a-network', 64)).toBe('a-rather-…')
})
