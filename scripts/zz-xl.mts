import { compile, exitsOf, hopMemo, readEstate } from '@salt-trail/core'
import { generateEstate } from './generator/estate'
import { SIZES } from './generator/plan'
const say = (what: string, since: number) => console.log(what, ((performance.now() - since) / 1000).toFixed(1), 's', (process.memoryUsage().heapUsed / 2 ** 30).toFixed(2), 'GiB')
let at = performance.now()
const text = JSON.stringify(generateEstate(SIZES.XL, 1).estate)
say(`generated, ${(text.length / 2 ** 20).toFixed(0)} MiB`, at)
at = performance.now()
const { estate, problems } = readEstate([{ name: 'XL.json', text }], { bytes: 2 ** 30, subnets: 1e6, routes: 1e7, rules: 1e7, aliases: 10, depth: 64 })
say(`read, ${problems.length} problems`, at)
at = performance.now()
const model = compile(estate!)
say('compiled', at)
at = performance.now()
const memo = hopMemo()
let n = 0
for (const index of model.index.subnets.values()) {
  exitsOf(model, model.subnets[index]!, memo)
  if (++n % 5000 === 0) say(`ways out of ${n}`, at)
}
