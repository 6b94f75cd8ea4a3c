import { compile, searchEstate } from '../../src/index'
import { estateOfJson } from '../random/read'

const model = compile(
  estateOfJson({
    networks: { hall: { title: 'Fish hall', ranges: ['10.9.0.0/16'] } },
    subnets: {
      desk: { network: 'hall', ranges: ['10.9.1.0/24'] },
      'front-desk': { network: 'hall', ranges: ['10.9.2.0/24'] },
    },
    interfaces: {
      'clerk-1': { subnet: 'desk', addresses: ['10.9.1.10'], publicAddress: '203.0.113.7' },
    },
    publicAddresses: { '203.0.113.7': {} },
    nats: { tide: { network: 'hall', placement: { subnet: 'desk' }, addresses: ['203.0.113.9'] } },
    parties: { buyer: { ranges: ['198.51.100.0/24'] } },
  }),
)
const found = (text: string, most = 8): string[] =>
  searchEstate(model, text, most).map(({ ref, says }) => `${ref}: ${says}`)

test('an address finds who has it, then whose ranges hold it, the longest first', () => {
  expect(found('10.9.1.10')).toEqual([
    'interfaces/clerk-1: interface, has it',
    'subnets/desk: subnet, holds it: 10.9.1.0/24',
    'networks/hall: network, holds it: 10.9.0.0/16',
  ])
  expect(found('203.0.113.7')).toEqual([
    'interfaces/clerk-1: interface, its public address',
    'publicAddresses/203.0.113.7: public address, reserved',
  ])
  expect(found('203.0.113.9')).toEqual(['nats/tide: NAT, has it'])
  expect(found('198.51.100.77')).toEqual(['parties/buyer: party, holds it: 198.51.100.0/24'])
  expect(found('192.0.2.1')).toEqual([])
})

test('a part of a name finds objects, those that begin with it first', () => {
  expect(found('desk')).toEqual([
    'subnets/desk: subnet, 10.9.1.0/24',
    'subnets/front-desk: subnet, 10.9.2.0/24',
  ])
  expect(found('FISH')).toEqual(['networks/hall: network, Fish hall, 10.9.0.0/16'])
  expect(found('10.9.1')).toEqual([
    'subnets/desk: subnet, 10.9.1.0/24',
    'interfaces/clerk-1: interface, 10.9.1.10, 203.0.113.7',
  ])
  expect(found('desk', 1)).toHaveLength(1)
  expect(found('  ')).toEqual([])
})
