import {
  stopsOf,
  compile,
  isRefusal,
  readEstate,
  trace,
  writeJson,
  type Model,
  type Question,
} from '../../src/index'
import { made } from '../changes/made'
import { randomEstate } from '../random/estate'
import { random } from '../random/random'
import { modelOf } from '../trace/fixtures'

const gets = (model: Model, question: Question): boolean => {
  const answer = trace(model, question)
  return (
    !isRefusal(answer) &&
    [answer, ...answer.branches].some(({ forward }) => forward.outcome === 'delivered')
  )
}

const estate = {
  networks: { shop: { ranges: ['10.1.0.0/16'] }, depot: { ranges: ['10.2.0.0/16'] } },
  peerings: { pair: { a: { network: 'shop' }, b: { network: 'depot' } } },
  routeTables: {
    shop: { network: 'shop', routes: [{ to: '10.2.0.0/16', via: { peering: 'pair' } }] },
    depot: { network: 'depot', routes: [{ to: '10.1.0.0/16', via: { peering: 'pair' } }] },
  },
  ruleSets: {
    out: { rules: [{ direction: 'out', peers: ['any'] }] },
    in: {
      rules: [
        { direction: 'in', protocol: 'tcp', ports: [22], peers: ['10.1.0.0/16'] },
        { direction: 'in', protocol: 'tcp', ports: ['20-80'], peers: ['any'] },
      ],
    },
  },
  subnets: {
    front: { network: 'shop', ranges: ['10.1.1.0/24'], routeTable: 'shop' },
    shelf: { network: 'depot', ranges: ['10.2.1.0/24'], routeTable: 'depot' },
  },
  interfaces: {
    till: { subnet: 'front', addresses: ['10.1.1.9'], ruleSets: ['out'] },
    rack: { subnet: 'shelf', addresses: ['10.2.1.9'], ruleSets: ['in'] },
    open: { subnet: 'shelf', addresses: ['10.2.1.10'] },
  },
}
const question = { from: 'interface:till', to: 'interface:rack', protocol: 'tcp', port: 22 }

test('every rule that lets a packet in is taken out, those nearest to its end first', () => {
  const plan = stopsOf(modelOf(estate), question)
  expect(plan).toMatchObject({
    works: true,
    mends: [
      {
        code: null,
        object: 'ruleSets/in',
        what: 'take “allow in tcp 22 from 10.1.0.0/16” out of in',
        changes: [{ op: 'remove', path: '/ruleSets/in/rules/0' }],
      },
      {
        code: null,
        object: 'ruleSets/in',
        what: 'take “allow in tcp 20-80 from any” out of in',
        changes: [{ op: 'remove', path: '/ruleSets/in/rules/0' }],
      },
    ],
  })
})

test('where nobody has rules that could be taken out, the route goes', () => {
  const bare = { interfaces: { till: { ruleSets: null }, rack: { ruleSets: null } } }
  const plan = stopsOf(modelOf(estate, bare), question)
  expect(plan).toMatchObject({
    works: true,
    mends: [{ object: 'routeTables/shop', what: 'take the route to 10.2.0.0/16 out of shop' }],
  })
})

test('what is lost already needs no change, and what cannot be asked is told as such', () => {
  expect(stopsOf(modelOf(estate), { ...question, port: 443 })).toEqual({
    mends: [],
    works: true,
    stuckAt: null,
  })
  expect(stopsOf(modelOf(estate), { ...question, from: 'interface:nobody' })).toMatchObject({
    code: 'unknown-object',
    part: 'from',
  })
})

test('neighbours in one subnet without rules cannot be kept apart by such changes', () => {
  const bare = {
    interfaces: {
      till: { subnet: 'shelf', addresses: ['10.2.1.20'], ruleSets: null },
      rack: { ruleSets: null },
    },
  }
  expect(stopsOf(modelOf(estate, bare), question)).toEqual({
    mends: [],
    works: false,
    stuckAt: null,
  })
})

test('on tangled estates nothing throws, and what is said to stop a packet stops it', () => {
  let stopped = 0
  for (let seed = 1; seed <= 40; seed++) {
    const { estate, ends } = randomEstate(seed)
    const model = modelOf(estate)
    const r = random(seed)
    for (let i = 0; i < 20; i++) {
      const question = {
        from: r.pick(ends),
        to: r.pick(ends),
        protocol: 'tcp',
        port: r.pick([22, 443, 5432]),
      }
      const plan = stopsOf(model, question)
      if (isRefusal(plan) || plan.mends.length === 0) continue
      const changed = plan.mends.reduce((state, { changes }) => made(state, changes), model.estate)
      const read = readEstate([{ name: 'closed', text: writeJson(changed) }])
      expect(read.problems.filter(({ severity }) => severity === 'error')).toEqual([])
      expect([question, gets(compile(read.estate!), question)]).toEqual([question, false])
      stopped++
    }
  }
  expect(stopped).toBeGreaterThan(30)
})
