import fc from 'fast-check'
import {
  formatAddress,
  isRefusal,
  talkBetween,
  trace,
  waysInOf,
  type Model,
  type Talk,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { runs } from '../random/runs'
import { modelOf } from '../trace/fixtures'

const yard = {
  networks: {
    hall: { ranges: ['10.1.0.0/16'], behaviour: 'default-open' },
    yard: { ranges: ['10.2.0.0/16'], behaviour: 'default-open' },
    shed: { ranges: ['10.3.0.0/16'], behaviour: 'default-open' },
  },
  subnets: {
    'hall-1': { network: 'hall', ranges: ['10.1.1.0/24'] },
    'yard-1': { network: 'yard', ranges: ['10.2.1.0/24'] },
    'shed-1': { network: 'shed', ranges: ['10.3.1.0/24'] },
  },
  interfaces: {
    clerk: { subnet: 'hall-1', addresses: ['10.1.1.10'], ruleSets: ['let-out'] },
    mute: { subnet: 'hall-1', addresses: ['10.1.1.11'], ruleSets: ['silent'] },
    crane: { subnet: 'yard-1', addresses: ['10.2.1.10'], ruleSets: ['web-rules'] },
    broom: { subnet: 'shed-1', addresses: ['10.3.1.10'], ruleSets: ['web-rules'] },
  },
  peerings: { 'hall-yard': { a: { network: 'hall' }, b: { network: 'yard' } } },
  ruleSets: {
    'let-out': { rules: [{ direction: 'out', protocol: 'any', peers: ['any'] }] },
    silent: { rules: [] },
    'web-rules': {
      rules: [
        { direction: 'in', protocol: 'tcp', ports: [443, '8000-8001'], peers: ['10.0.0.0/8'] },
        { direction: 'in', protocol: 'icmp', peers: ['10.1.0.0/16'] },
      ],
    },
  },
}
const talk = (model: Model, from: string, to: string): Talk => {
  const number = (id: string): number => model.networks.findIndex((one) => one.id === id)
  return talkBetween(model, [number(from), number(to)])
}

test('what hosts of one network can send to those of another', () => {
  const model = modelOf(yard)
  expect(talk(model, 'hall', 'yard')).toMatchObject({
    ...{ open: ['icmp', 'tcp 443', 'tcp 8000-8001'], unanswered: [] },
    ...{ hosts: { from: 2, to: 1 }, isCut: false },
    shown: { packet: { src: '10.1.1.10', dst: '10.2.1.10' }, way: ['peerings/hall-yard'] },
  })
})

test('who has no rules or no route for each other cannot talk', () => {
  const model = modelOf(yard)
  expect(talk(model, 'yard', 'hall')).toMatchObject({ open: [], unanswered: [], shown: null })
  expect(talk(model, 'hall', 'shed')).toMatchObject({ open: [], unanswered: [], shown: null })
})

test('what is delivered and never answered is told apart', () => {
  const stateless = {
    ...yard.ruleSets['web-rules'],
    stateful: false,
  }
  const model = modelOf({ ...yard, ruleSets: { ...yard.ruleSets, 'web-rules': stateless } })
  expect(talk(model, 'hall', 'yard')).toMatchObject({
    open: [],
    unanswered: ['icmp', 'tcp 443', 'tcp 8000-8001'],
  })
})

test('a search that is ended says so', () => {
  const model = modelOf(yard)
  const [hall, at] = ['hall', 'yard'].map((id) => model.networks.findIndex((n) => n.id === id))
  expect(talkBetween(model, [hall!, at!], () => true)).toMatchObject({ shown: null, isCut: true })
})

test('in random estates who talks to whom is who comes in, and the packet is delivered', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1_000_000 }), (seed) => {
      const model = modelOf(randomEstate(seed).estate)
      const known = new Set(
        model.subnets
          .filter(({ id }) => model.index.subnets.has(id))
          .flatMap((subnet) =>
            waysInOf(model, subnet).ways.flatMap(({ from, to, packets }) => {
              // The side of a firewall sends and is sent to, but is no host here.
              const byHost = packets.some(({ src }) =>
                model.interfaces.some(
                  ({ index, subnet: home, addresses }) =>
                    model.networks[model.subnets[home]?.network ?? -1]?.ref === from &&
                    addresses.some((one) => formatAddress(one) === src) &&
                    !model.firewallAt.has(index),
                ),
              )
              const index = model.index.interfaces.get(to.slice('interfaces/'.length))!
              const isHost = model.interfaces[index]!.up && !model.firewallAt.has(index)
              const network = model.networks[subnet.network]!.ref
              return isHost && byHost && from.startsWith('networks/') ? [`${from} ${network}`] : []
            }),
          ),
      )
      for (const a of model.networks)
        for (const b of model.networks) {
          if (a === b || !model.index.networks.has(a.id) || !model.index.networks.has(b.id))
            continue
          const one = talkBetween(model, [a.index, b.index])
          if (known.has(`${a.ref} ${b.ref}`))
            expect([seed, one]).not.toMatchObject([seed, { shown: null }])
          if (one.shown === null) continue
          const { src, dst, protocol, srcPort, dstPort } = one.shown.packet
          const answer = trace(
            model,
            { from: src, to: dst, protocol, port: dstPort, sourcePort: srcPort },
            { evidence: false },
          )
          if (isRefusal(answer)) continue
          const branches = answer.branches.length > 0 ? answer.branches : [answer]
          const outcomes = branches.map(({ forward }) => forward.outcome)
          expect([seed, one, outcomes]).toEqual([seed, one, expect.arrayContaining(['delivered'])])
        }
    }),
    { numRuns: runs(8) },
  )
})

/** Whether a text such as `tcp, udp 400-500` speaks of a TCP port. */
function speaksOf(text: string, port: number): boolean {
  const [, from, to] = /(?: |^)(\d+)(?:-(\d+))?$/.exec(text) ?? []
  const hasPort = from === undefined || (Number(from) <= port && port <= Number(to ?? from))
  const hasTcp = text.startsWith('other protocols than ')
    ? !/\btcp\b/.test(text)
    : /^(every|many) protocol|\btcp\b/.test(text)
  return hasTcp && hasPort
}

test('no packet that is answered between two networks is left out', () => {
  let answeredPackets = 0
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1_000_000 }), (seed) => {
      const model = modelOf(randomEstate(seed).estate)
      const { pick } = random(seed)
      const hosts = model.interfaces.filter(
        ({ id, index, subnet, up }) =>
          up && subnet >= 0 && model.index.interfaces.has(id) && !model.firewallAt.has(index),
      )
      const talks = new Map<string, Talk>()
      for (let tried = 0; tried < 60; tried++) {
        const [a, b] = [pick(hosts), pick(hosts)]
        const [from, to] = [model.subnets[a.subnet]!.network, model.subnets[b.subnet]!.network]
        if (from === to || a.addresses.length === 0 || b.addresses.length === 0) continue
        const port = pick([22, 53, 80, 443, 5432, 8443])
        const asked = { from: `interface:${a.id}`, to: `interface:${b.id}`, port }
        const answer = trace(model, asked, { evidence: false })
        if (isRefusal(answer) || answer.verdict !== 'works') continue
        const key = `${from} ${to}`
        const known = talks.get(key) ?? talkBetween(model, [from, to])
        talks.set(key, known)
        answeredPackets += 1
        expect([seed, asked, known.open.some((text) => speaksOf(text, port)), known]).toEqual([
          ...[seed, asked, true, known],
        ])
      }
    }),
    { numRuns: runs(60) },
  )
  expect(answeredPackets).toBeGreaterThan(5)
})
