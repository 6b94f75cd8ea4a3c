import { isRefusal, trace, type Trace } from '../../src/index'
import { generateShape } from '../../../scripts/generator/shapes'
import { random, type Random } from '../random/random'
import { runs } from '../random/runs'
import { agree, inOrder, said } from '../second-opinion/agree'
import { answersTo } from '../second-opinion/answer'
import { modelOf } from '../trace/fixtures'

function answered(model: ReturnType<typeof modelOf>, from: string, to: string): Trace {
  const found = trace(model, { from, to, protocol: 'tcp', port: 443 }, { evidence: false })
  if (isRefusal(found)) throw new Error(found.message)
  return found
}

describe('a row of twenty forwarders, each reached by two routes of equal cost', () => {
  const model = modelOf(generateShape('chains', 80).estate)
  const asked = (chain: number): Trace =>
    answered(model, `interface:chain-${chain}-s0-h0`, 'internet')

  test('its million paths are told in few branches that name every forwarder', () => {
    const { verdict, branches, truncated } = asked(0)
    expect({ verdict, truncated }).toEqual({ verdict: 'works', truncated: false })
    expect(branches.length).toBeLessThan(60)
    const passed = new Set(branches.flatMap(({ way }) => way))
    for (let stage = 1; stage <= 20; stage++)
      for (const side of ['a', 'b']) expect(passed).toContain(`interfaces/chain-0-${stage}${side}`)
  })

  test('one forwarder that does not forward loses some of the paths', () => {
    const { verdict, cause, branches } = asked(1)
    expect([verdict, cause?.object]).toEqual(['blackholed', 'interfaces/chain-1-10a'])
    expect(new Set(branches.map((one) => one.verdict))).toEqual(new Set(['works', 'blackholed']))
  })

  test('one whose rules let nothing in blocks some of the paths', () => {
    expect(asked(3).cause).toMatchObject({
      code: 'denied-interface',
      object: 'ruleSets/refuse-rules',
    })
  })
})

/**
 * Two hosts with a few stages of forwarders between them, tried in both directions: the answer goes
 * by forwarders too, whose rules know the flow or ask it as a new one.
 */
function tangled(r: Random): Record<string, unknown> {
  const stages = 2 + r.number(3)
  const sets = ['open', 'one-way', 'deaf']
  const interfaces: Record<string, object> = {
    a: { subnet: 's', addresses: ['10.0.0.10'], tags: { a: '', 'stage-0': '' } },
    b: { subnet: 's', addresses: ['10.0.0.11'], tags: { b: '', 'stage-0': '' } },
  }
  const routes: object[] = []
  const to = (prefix: string, via: object, tag: string): void =>
    void routes.push({ to: prefix, via, onlyTags: [tag], priority: 100 })
  const sides = ['x', 'y', 'z'].slice(0, 2 + r.number(2))
  for (let stage = 1; stage <= stages; stage++)
    for (const [at, side] of sides.entries()) {
      const id = `f${stage}${side}`
      interfaces[id] = {
        subnet: 's',
        addresses: [`10.0.0.${stage * 16 + at + 20}`],
        forwards: !r.chance(10),
        ruleSets: [r.pick(r.chance(40) ? sets : ['open'])],
        tags: { [`stage-${stage}`]: '' },
      }
      // Both directions go up the stages; the last one hands over to the site by the gateway.
      to('172.20.0.0/16', { interface: id }, `stage-${stage - 1}`)
    }
  to('172.20.0.0/16', { gateway: 'circuit' }, `stage-${stages}`)
  const back = sides.map((side) => `f${1 + r.number(stages)}${side}`)
  return {
    format: 'salt-trail/1',
    name: 'tangled',
    networks: {
      n: { ranges: ['10.0.0.0/16'], behaviour: 'priority-routed', defaultRouteTable: 't' },
    },
    subnets: { s: { network: 'n', ranges: ['10.0.0.0/24'] } },
    interfaces,
    ruleSets: {
      open: {
        rules: [
          { direction: 'in', protocol: 'any', peers: ['any'] },
          { direction: 'out', protocol: 'any', peers: ['any'] },
        ],
      },
      // The answer passes only where the request was let in.
      'one-way': {
        rules: [
          { direction: 'in', protocol: 'any', peers: ['10.0.0.0/16'] },
          { direction: 'out', protocol: 'any', peers: ['172.20.0.0/16'] },
        ],
      },
      deaf: { rules: [{ direction: 'out', protocol: 'any', peers: ['any'] }] },
    },
    routeTables: {
      t: { network: 'n', routes },
      // What comes in from the site is handed to some of the forwarders.
      inbound: { network: 'n', routes: [{ to: '10.0.0.10/32', via: { interface: r.pick(back) } }] },
    },
    gateways: {
      circuit: {
        kind: 'private',
        network: 'n',
        site: 'far',
        ...(r.chance(60) ? { routeTable: 'inbound' } : {}),
      },
    },
    sites: { far: { ranges: ['172.20.0.0/16'] } },
  }
}

test('paths that meet have every fate, element and address of the paths one by one', () => {
  const verdicts = new Map<string, number>()
  for (let seed = 1; seed <= runs(150); seed++) {
    const model = modelOf(tangled(random(seed)))
    const ours = answered(model, 'interface:a', 'site:far')
    const transport = { protocol: 'tcp', port: 443, sourcePort: 50000 }
    const plain = answersTo(model.estate, { from: 'interface:a', to: 'site:far', ...transport })
    if (plain === null || plain === 'many') throw new Error('the plain implementation gave up')
    const mine = inOrder((ours.branches.length > 0 ? ours.branches : [ours]).map(said))
    if (!agree(mine, plain)) expect({ seed, mine }).toEqual({ seed, mine: inOrder(plain) })
    for (const { verdict } of mine) verdicts.set(verdict, (verdicts.get(verdict) ?? 0) + 1)
  }
  // Answers that one path's rules know and another's do not are among them.
  expect([...verdicts.keys()].sort()).toEqual(['blackholed', 'blocked', 'one-way', 'works'])
})
