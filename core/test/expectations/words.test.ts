import { expectationText } from '../../src/expectations/words'

test('an expectation says in one line of which packets it speaks', () => {
  expect(expectationText({ must: 'never-reach' })).toBe('anything to anything')
  expect(
    expectationText({
      must: 'pass',
      from: [{ role: 'private', region: 'north' }, 'internet'],
      to: { any: ['10.0.0.0/8'], except: 'subnets/a' },
      by: ['firewalls/w'],
    }),
  ).toBe(
    'role private and region north or internet to 10.0.0.0/8 but not subnets/a; by firewalls/w',
  )
  expect(
    expectationText({
      must: 'appear-as',
      from: 'subnets/a',
      except: { tag: 'a=b' },
      protocol: 'tcp',
      ports: [443, '8000-8100'],
      as: ['192.0.2.1/32'],
    }),
  ).toBe('subnets/a to anything; except tag a=b; tcp 443, 8000-8100; as 192.0.2.1/32')
})
