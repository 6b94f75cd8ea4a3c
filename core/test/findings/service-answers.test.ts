import { compile, findAll } from '../../src/index'
import { estateOfJson } from '../random/read'

/**
 * A public host without a way out, whose subnet may have a switch to a service: answers to the
 * service take it.
 */
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
    routeTables: { out: { network: 'hall' } },
    gateways: { door: { kind: 'internet', network: 'hall' } },
    services: { store: { ranges: ['198.51.100.0/26'] } },
  })

const lostAnswers = (privateServices?: readonly string[]): readonly string[] =>
  findAll(compile(estate(privateServices)))!.findings.flatMap(({ code, sentence }) =>
    code === 'hole-no-way-back' ? [sentence] : [],
  )

test('a service that asks a host and is answered by its switch is named, not the internet', () => {
  const internet =
    'Packets from the internet reach kiosk, but the answers are lost: no-route at out.'
  const store = 'Packets from store reach kiosk, but the answers are lost: '
  expect([...lostAnswers(['store'])].sort()).toEqual([
    `${store}answer-to-other-host at store.`,
    internet,
  ])
  expect(lostAnswers()).toEqual([internet])
})
