import { generateEstate } from './generator/estate'
import { SIZES, random } from './generator/plan'
import { compile, readEstate, trace } from '@salt-trail/core'
const { estate } = readEstate([{ name: 'x.json', text: JSON.stringify(generateEstate(SIZES.L, 1).estate) }])
const m = compile(estate!)
if (process.argv[2] === 'inc') {
  const tables = [...estate!.routeTables]
  for (let i = 0; i < 20; i++) { const [id, t] = tables[i * 97]!; const e = { ...estate!, routeTables: new Map(estate!.routeTables).set(id, { ...t, routes: t.routes!.slice(1) }) }; const s = performance.now(); compile(e, m); console.log((performance.now()-s).toFixed(1)) }
} else {
  const r = random(42); const hosts = [...m.index.interfaces.keys()]
  const places = ['internet', 'party:broker-3', 'site:north-harbour', 'service:north-store']
  for (const n of [5000,5000,20000,20000]) { const times = []; for (let i = 0; i < n; i++) { const s = performance.now(); trace(m, { from: `interface:${r.pick(hosts)}`, to: r.chance(0.5) ? `interface:${r.pick(hosts)}` : r.pick(places), protocol: 'tcp', port: 443 }); times.push(performance.now()-s) }
  times.sort((a,b)=>a-b); console.log(times[n>>1]) }
}
