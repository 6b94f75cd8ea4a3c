import {
  entriesFrom,
  entriesOf,
  membersOf,
  exitsOf,
  hopMemo,
  isRefusal,
  trace,
  type ExitRow,
  type ExitWay,
  type Model,
} from '../../src/index'
import { randomEstate } from '../random/estate'
import { modelOf } from '../trace/fixtures'
import { runs } from '../random/runs'

const ESTATES = runs(8)
const COLUMNS = ['internet', 'services', 'sites', 'otherNetworks', 'sameNetwork'] as const
/** Rules are not asked here. */
const BY_RULES = /^(denied|firewall-denied|policy)/

const rowsOf = (model: Model): ExitRow[] => {
  const memo = hopMemo()
  return [...model.index.subnets.values()].map((index) =>
    entriesOf(model, model.subnets[index]!, memo),
  )
}

test('whatever enters by a way does so in the trace that shows it, unless rules or a firewall stop it', () => {
  let asked = 0
  for (let seed = 0; seed < ESTATES; seed++) {
    const model = modelOf(randomEstate(seed).estate)
    for (const row of rowsOf(model)) {
      for (const column of COLUMNS) {
        for (const { way, question, branches } of row[column]) {
          const answer = trace(model, { ...question, protocol: 'tcp', port: 443 })
          if (isRefusal(answer) || branches > 0) continue
          // Several may answer to one address, and a port may be translated elsewhere: one of the
          // branches is this way.
          const lanes = answer.branches.filter(({ forward }) => {
            const passed = forward.stations.map((station) => station.at)
            return way.every((ref) => ref === 'internet' || passed.includes(ref))
          })
          if (lanes.length === 0 || lanes.some(({ cause }) => BY_RULES.test(cause?.code ?? '')))
            continue
          expect(lanes.some(({ cause }) => cause === null || cause.direction === 'return')).toBe(
            true,
          )
          asked++
        }
      }
    }
  }
  expect(asked).toBeGreaterThan(20)
})

test('what one subnet sends to another as it is enters there by the same way', () => {
  let found = 0
  for (let seed = 0; seed < ESTATES; seed++) {
    const model = modelOf(randomEstate(seed).estate)
    const memo = hopMemo()
    for (const row of rowsOf(model)) {
      for (const { question, way } of [...row.otherNetworks, ...row.sameNetwork]) {
        const id = question.from.startsWith('interface:')
          ? model.subnets[
              model.interfaces[model.index.interfaces.get(question.from.slice(10))!]!.subnet
            ]!.id
          : question.from.slice('subnet:'.length)
        const out = exitsOf(model, model.subnets[model.index.subnets.get(id)!]!, memo)
        expect(
          [...out.otherNetworks, ...out.sameNetwork].some((one) => one.way.join() === way.join()),
        ).toBe(true)
        found++
      }
    }
  }
  expect(found).toBeGreaterThan(100)
})

test('what enters from the members of a column is what enters from the column', () => {
  const said = ({ way, seenAs, family }: ExitWay): string =>
    `${family} ${way.join()} ${seenAs.join()}`
  let found = 0
  for (let seed = 0; seed < runs(6); seed++) {
    const model = modelOf(randomEstate(seed).estate)
    const memo = hopMemo()
    for (const index of model.index.subnets.values()) {
      const subnet = model.subnets[index]!
      const row = entriesOf(model, subnet, memo)
      for (const column of COLUMNS) {
        const members = membersOf(model, column)
        const cells = entriesFrom(model, subnet, column, members, memo)
        if (members.length > 0)
          expect(new Set(cells.flat().map(said))).toEqual(new Set(row[column].map(said)))
        // Where each comes from is one of the member's own ends.
        if (column === 'sites')
          cells.forEach((ways, at) =>
            expect(ways.every(({ question }) => question.from === `site:${members[at]}`)).toBe(
              true,
            ),
          )
        found += cells.flat().length
      }
    }
  }
  expect(found).toBeGreaterThan(30)
})
