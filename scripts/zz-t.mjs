import { parse } from 'yaml'
import { readFileSync } from 'node:fs'
for (const r of parse(readFileSync('demo/earlier/history.yaml','utf8'))) for (const b of r.before) console.log(JSON.stringify(b.now), readFileSync('demo/'+b.file,'utf8').includes(b.now))
