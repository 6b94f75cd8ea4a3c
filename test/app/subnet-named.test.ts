import { subnetChoices, subnetNamed } from '~/questions/subnet-named'

const subnet = (id: string, ranges: string[]) => ({
  ...{ id, ranges, title: null, network: 'quay', zone: null, region: null, role: null },
  ...{ table: null, ownTable: false, like: -1 },
})
const subnets = [
  subnet('quay-desk', ['10.1.1.0/24', '2001:db8:1::/64']),
  subnet('quay-all', ['10.1.0.0/16']),
  subnet('shed', ['10.2.0.0/24']),
]
const choices = subnetChoices({
  ends: [
    { end: 'internet', id: 'internet', about: '' },
    { end: 'interface:clerk-1', id: 'clerk-1', about: 'host 10.1.1.10', home: 'quay-desk' },
    { end: 'interface:clerk-2', id: 'clerk-2', about: 'host 10.1.1.11', home: 'quay-desk' },
    ...subnets.map(({ id }) => ({ end: `subnet:${id}`, id, about: 'subnet' })),
    { end: 'party:shed-buyer', id: 'shed-buyer', about: 'party' },
  ],
})

test.each([
  ['shed', 'shed'],
  ['she', 'shed'],
  ['clerk-2', 'quay-desk'],
  ['clerk', 'quay-desk'],
  ['10.1.1.77', 'quay-desk'],
  ['10.1.9.1', 'quay-all'],
  ['2001:db8:1::9', 'quay-desk'],
  ['10.9.9.9', null],
  ['quay', null],
  ['nothing', null],
  ['', null],
])('"%s" names the subnet %s', (text, named) =>
  expect(subnetNamed(text, choices, subnets)).toBe(named),
)
