import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { applyChanges, compile, findAll, readEstate, type Estate, type Finding, type Model } from '../../src/index'
import { randomEstate } from '../random/estate'
import { modelOf } from '../trace/fixtures'

function demo(): Estate {
  const folder = join(__dirname, '../../../demo')
  const files = readdirSync(folder).filter((name) => name.endsWith('.yaml'))
  return readEstate(files.map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }))).estate!
}

/** What leaks, or is too narrow: mends of what is lost are tried one by one when they are looked for. */
const CODES = ['leak-direct', 'leak-ipv6', 'leak-round-firewall', 'leak-service-by-internet', 'leak-name-public', 'odd-nat-capacity']

/** What a finding says of its packets; with fewer of them it says less. */
const said = (findings: readonly Finding[], fingerprint: string): string | undefined => {
  const one = findings.find((each) => each.fingerprint === fingerprint)
  return one && JSON.stringify([one.sentence, one.evidence.ranges])
}

test('the mend of a leak takes it away, or some of its ranges, in the demo and in random estates', () => {
  const mended = new Set<string>()
  const models: readonly Model[] = [compile(demo()), ...Array.from({ length: 25 }, (_, seed) => modelOf(randomEstate(seed).estate))]
  for (const model of models) {
    const before = findAll(model)!.findings
    for (const one of before) {
      if (one.mend === null || !CODES.includes(one.code)) continue
      const after = findAll(compile(applyChanges(model.estate, one.mend.changes), model))!.findings
      expect([one.sentence, one.mend.what, said(after, one.fingerprint) === said(before, one.fingerprint)]).toEqual([one.sentence, one.mend.what, false])
      mended.add(one.code)
    }
  }
  expect([...mended].sort()).toEqual(expect.arrayContaining(['leak-direct', 'leak-ipv6', 'leak-round-firewall', 'leak-service-by-internet']))
})
