import { apply, isValid, outageOf, type Estate } from '../../src/index'
import { estateOfJson } from '../random/read'

const estate: Estate = estateOfJson({
  regions: { north: { zones: ['z1', 'z2'] }, south: { zones: ['z1'] } },
  networks: { n: { ranges: ['10.0.0.0/16'], region: 'north' } },
  subnets: {
    first: { network: 'n', ranges: ['10.0.1.0/24'], zone: 'z1' },
    second: { network: 'n', ranges: ['10.0.2.0/24'], zone: 'z2' },
    both: { network: 'n', ranges: ['10.0.3.0/24'], region: 'north' },
  },
  interfaces: {
    a: { subnet: 'first', addresses: ['10.0.1.10'] },
    b: { subnet: 'first', addresses: ['10.0.1.11'], state: 'deleted' },
    c: { subnet: 'second', addresses: ['10.0.2.10'] },
  },
  nats: { out: { network: 'n', kind: 'private', placement: { subnet: 'first' } } },
  firewalls: {
    gate: {
      style: 'inline',
      network: 'n',
      endpoints: { one: { subnet: 'first' }, two: { subnet: 'second' } },
    },
  },
  frontends: {
    spread: { network: 'n', subnets: ['first', 'second'], privateAddresses: ['10.0.2.20'] },
    alone: { network: 'n', subnets: ['first'], privateAddresses: ['10.0.1.20'] },
  },
  transits: {
    t: { attachments: { n: { network: 'n', subnets: ['first', 'second'] } } },
  },
})

/** What an outage does, as paths with what is put there. */
const doneBy = (...failing: string[]): Record<string, unknown> | string => {
  const made = outageOf(estate, failing)
  if (!made.ok) return made.message
  const after = apply(estate, made.change)
  expect(after.ok && isValid(after.estate, estate)).toBe(true)
  return Object.fromEntries(made.change.map((one) => [one.path, 'value' in one ? one.value : null]))
}

test('a zone takes all down that stands in it alone; the rest goes on from where it is left', () => {
  expect(doneBy('zone:north/z1')).toEqual({
    '/subnets/first/state': 'down',
    '/interfaces/a/state': 'down',
    '/nats/out/state': 'down',
    '/firewalls/gate/endpoints/one/state': 'down',
    '/frontends/spread/subnets': ['second'],
    '/frontends/alone/state': 'down',
    '/transits/t/attachments/n/subnets': ['second'],
  })
})

test('what spans the region stays up, and is named', () => {
  expect(outageOf(estate, ['zone:north/z2'])).toMatchObject({ leftOut: ['subnets/both'] })
})

test('objects fail by name, several at once', () => {
  expect(doneBy('nats/out', 'firewalls/gate')).toEqual({
    '/nats/out/state': 'down',
    '/firewalls/gate/state': 'down',
  })
})

test.each([
  ['zone:z1', 'north and south each have a zone "z1"; name it as zone:north/z1 or zone:south/z1'],
  ['zone:z9', 'there is no zone "z9" in this estate; its zones are z1, z2, z1'],
  ['nats/none', 'there is no nats/none in this estate'],
  [
    'parties/x',
    '"parties/x" cannot fail: name a zone as zone:ID, or an object of nats, gateways, firewalls, interfaces, peerings, transits, endpoints, frontends, subnets',
  ],
])('%s cannot be meant', (name, why) => {
  expect(doneBy(name)).toBe(why)
})
