import { bothTexts, bySection } from '~/views/revisions/change-words'

const by = (...way: string[]) => ({
  way,
  otherWays: [],
  leavesBy: null,
  seenAs: [],
  cause: null,
})

test('both sides of a change, and what they speak of where their words are the same', () => {
  expect(bothTexts({ before: by('peerings/p'), after: null })).toEqual(['p', 'not there'])
  expect(
    bothTexts({
      before: { ...by('nats/n'), seenAs: ['203.0.113.1'] },
      after: { ...by('nats/n'), seenAs: ['203.0.113.2'] },
    }),
  ).toEqual(['n, as 203.0.113.1', 'n, as 203.0.113.2'])
  const lost = (object: string) => ({ ...by(), cause: { code: 'no-such-subnet', object } })
  expect(bothTexts({ before: lost('subnets/a'), after: lost('networks/b') })).toEqual([
    'The destination is in the network’s range, but in none of its subnets. (a)',
    'The destination is in the network’s range, but in none of its subnets. (b)',
  ])
})

test('changed objects stand by their section', () => {
  const change = (object: string) => ({ object, kind: 'added' as const, keys: [] })
  expect(
    bySection([change('subnets/a'), change('prices'), change('subnets/b/c')]).map(
      ({ section, changes }) => [section, changes.map(({ name }) => name)],
    ),
  ).toEqual([
    ['subnets', ['a', 'b/c']],
    ['organisation', ['prices']],
  ])
})
