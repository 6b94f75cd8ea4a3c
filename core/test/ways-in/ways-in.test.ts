import { hopMemo, waysInOf, type WaysIn } from '../../src/index'
import { intersectRanges, rangeSetOf } from '../../src/address/ranges'
import { prefixOf } from '../../src/address/prefix'
import { ruleBook } from '../../src/rules/rule-book'
import { ruleText } from '../../src/rules/words'
import { randomEstate } from '../random/estate'
import { modelOf } from '../trace/fixtures'
import { runs } from '../random/runs'

const SHORE = {
  networks: { shore: { ranges: ['10.1.0.0/16'], defaultRouteTable: 'main' } },
  subnets: {
    quay: { network: 'shore', ranges: ['10.1.1.0/24'] },
    shed: { network: 'shore', ranges: ['10.1.2.0/24'] },
  },
  routeTables: {
    main: { network: 'shore', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
  },
  gateways: { door: { kind: 'internet', network: 'shore' } },
  interfaces: {
    crane: {
      subnet: 'quay',
      addresses: ['10.1.1.10'],
      publicAddress: '203.0.113.10',
      ruleSets: ['crane'],
    },
    winch: { subnet: 'shed', addresses: ['10.1.2.10'], ruleSets: ['crane'] },
  },
  ruleSets: {
    crane: {
      rules: [
        { direction: 'in', protocol: 'tcp', ports: [443], peers: ['any'] },
        { direction: 'in', protocol: 'tcp', ports: [443], peers: ['198.51.100.0/24'] },
        { direction: 'in', protocol: 'tcp', ports: [22], peers: ['198.51.100.0/24'] },
        { direction: 'in', protocol: 'tcp', ports: [5432], peers: ['10.9.0.0/16'] },
        { direction: 'in', protocol: 'tcp', ports: [5432], peers: ['10.1.1.0/24'] },
        { direction: 'out' },
      ],
    },
  },
}
const waysInto = (id: string): WaysIn => {
  const model = modelOf(SHORE)
  return waysInOf(model, model.subnets[model.index.subnets.get(id)!]!)
}

test('a rule that others leave nothing, or that names nobody who gets there, is told with the reason', () => {
  expect(waysInto('quay').idle).toEqual([
    {
      set: 'ruleSets/crane',
      rule: 'allow in tcp 443 from 198.51.100.0/24',
      why: 'all of it is matched by allow in tcp 443 from any',
    },
    {
      set: 'ruleSets/crane',
      rule: 'allow in tcp 5432 from 10.9.0.0/16',
      why: 'no packet from there gets here',
    },
  ])
})

test('where the internet does not get in, a rule for it is idle too', () => {
  expect(waysInto('shed').idle.map(({ rule }) => rule)).toContain(
    'allow in tcp 22 from 198.51.100.0/24',
  )
  expect(waysInto('shed').ways).toEqual([])
})

test('no packet that gets into a subnet comes from where an idle rule says nobody gets here from', () => {
  let idle = 0
  let ways = 0
  for (let seed = 0; seed < runs(6); seed++) {
    const model = modelOf(randomEstate(seed).estate)
    const memo = hopMemo()
    const book = ruleBook(model)
    for (const index of model.index.subnets.values()) {
      const found = waysInOf(model, model.subnets[index]!, memo)
      for (const one of found.idle.filter(({ why }) => why === 'no packet from there gets here')) {
        const set = book.set(model.index.ruleSets.get(one.set.slice('ruleSets/'.length))!)
        const written = model.estate.ruleSets.get(one.set.slice('ruleSets/'.length))!.rules!
        const peers = set.rules
          .filter((rule) => ruleText(written[rule.entry]!) === one.rule)
          .flatMap((rule) => [...(rule.peers() ?? [])])
        idle++
        for (const way of found.ways) {
          // What is translated on the way comes from another address than it was sent from.
          if (
            way.ways.some((refs) => refs.some((ref) => /^(nats|firewalls|frontends)\//.test(ref)))
          )
            continue
          ways++
          const sources = rangeSetOf(
            way.packets
              .filter(({ src }) => /^[0-9a-f.:]+\/\d+$/.test(src))
              .map(({ src }) => prefixOf(src)),
          )
          expect(intersectRanges(sources, peers)).toEqual([])
        }
      }
    }
  }
  expect([idle > 10, ways > 10]).toEqual([true, true])
})

// It ended with a raw RangeError after a minute.
test('a rule with too many kinds of packets is looked through in part, and that is told', () => {
  const many = <T>(make: (n: number) => T): T[] => Array.from({ length: 40 }, (_, n) => make(n))
  const model = modelOf({
    ...SHORE,
    ruleSets: {
      crane: {
        rules: [
          {
            ...{ direction: 'in', protocol: 'tcp' },
            peers: many((n) => `192.${n}.${n * 3}.0/24`),
            ports: many((n) => 1000 + n * 7),
            sourcePorts: many((n) => 2000 + n * 9),
          },
        ],
      },
    },
  })
  const { leftOut, ways } = waysInOf(model, model.subnets[model.index.subnets.get('quay')!]!)
  expect(leftOut).toContainEqual({ from: 'internet', to: 'interfaces/crane' })
  expect(ways.some(({ from, to }) => from === 'internet' && to === 'interfaces/crane')).toBe(true)
})
