import { compile, findAll } from '../../src/index'
import { estateOfJson } from '../random/read'

/** A public host whose subnet has a switch to a service, so that answers to the service take it. */
const estate = (privateServices?: readonly string[]) =>
  estateOfJson({
    networks: { hall: { ranges: ['10.9.0.0/16'] } },
    subnets: {
      desk: {
        network: 'hall',
        ranges: ['10.9.1.0/24'],
        routeTable: 'out',
        ...(privateServices ? { privateServices } : {}),
      },
    },
    interfaces: {
      kiosk: {
        subnet: 'desk',
        addresses: ['10.9.1.5'],
        publicAddress: '203.0.113.5',
        ruleSets: ['open'],
      },
    },
    ruleSets: { open: { rules: [{ direction: 'in', peers: ['any'] }] } },
    routeTables: {
      out: { network: 'hall', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
    },
    gateways: { door: { kind: 'internet', network: 'hall' } },
    services: { store: { ranges: ['198.51.100.0/26'] } },
  })

const lostAnswers = (privateServices?: readonly string[]) =>
  findAll(compile(estate(privateServices)))!.findings.filter(
    ({ code }) => code === 'hole-no-way-back',
  )

test('a service that asks a host and is answered by its switch is named, not the internet', () => {
  const [lost, ...others] = lostAnswers(['store'])
  expect(others).toEqual([])
  expect(lost).toMatchObject({
    anchor: 'subnets/desk',
    sentence:
      'Packets from store reach kiosk, but the answers are lost: answer-to-other-host at store.',
    evidence: { question: { from: '198.51.100.0', to: '203.0.113.5' } },
  })
  expect(lostAnswers()).toEqual([])
})
