import { decidedAt } from '../../src/index'
import { ask, modelOf } from './fixtures'

const hall = {
  networks: {
    hall: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'out' },
    yard: { ranges: ['10.2.0.0/16'], defaultRouteTable: 'home' },
  },
  subnets: {
    'hall-1': { network: 'hall', ranges: ['10.1.1.0/24'] },
    'yard-1': { network: 'yard', ranges: ['10.2.1.0/24'] },
  },
  interfaces: {
    clerk: { subnet: 'hall-1', addresses: ['10.1.1.10'] },
    crane: { subnet: 'yard-1', addresses: ['10.2.1.10'] },
  },
  peerings: { joined: { a: { network: 'hall' }, b: { network: 'yard' } } },
  gateways: { door: { kind: 'internet', network: 'yard' } },
  routeTables: {
    out: { network: 'hall', routes: [{ to: '10.2.0.0/16', via: { peering: 'joined' } }] },
    home: { network: 'yard', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
  },
}

test('an answer that a route leads astray is decided at the table, not where it is lost', () => {
  const answer = ask(modelOf(hall), 'interface:clerk > interface:crane tcp 443')
  expect(answer.cause).toMatchObject({ code: 'private-destination', object: 'gateways/door' })
  const decided = decidedAt(answer)!
  expect(decided.direction).toBe('return')
  expect(answer.return!.stations[decided.station]).toMatchObject({ at: 'routeTables/home' })
  expect(decided.says).toContain('home leads it there: 0.0.0.0/0 wins')
})

test('what is lost where it is decided says no more, and what works decides nothing', () => {
  const lost = ask(modelOf(hall), 'interface:clerk > 198.51.100.9 tcp 443')
  expect(decidedAt(lost)).toEqual({
    ...{ direction: 'forward', station: lost.cause!.station, says: '' },
  })
  const home = { routes: [{ to: '10.1.0.0/16', via: { peering: 'joined' } }] }
  const model = modelOf(hall, { routeTables: { home } })
  expect(decidedAt(ask(model, 'interface:clerk > interface:crane tcp 443'))).toBeNull()
})
