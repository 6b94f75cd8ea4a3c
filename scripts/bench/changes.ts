import { analyseStanding, type Estate } from '@salt-trail/core'
import { random, type Random } from '../../core/test/random/random'

/** What is changed, one object each time: the rest of the estate is shared. */
export const CHANGES: readonly (readonly [
  what: string,
  change: (estate: Estate, r: Random) => Estate,
])[] = [
  [
    'route',
    (estate, r) => {
      const [id, table] = r.pick(
        [...estate.routeTables].filter(([, one]) => (one.routes ?? []).length > 0),
      )
      const routes = r.chance(50)
        ? table.routes!.slice(1)
        : [...table.routes!, { to: '198.51.100.0/24', via: 'drop' as const }]
      return { ...estate, routeTables: new Map(estate.routeTables).set(id, { ...table, routes }) }
    },
  ],
  [
    'rule',
    (estate, r) => {
      const [id, set] = r.pick(
        [...estate.ruleSets].filter(([, one]) => (one.rules ?? []).length > 0),
      )
      return {
        ...estate,
        ruleSets: new Map(estate.ruleSets).set(id, { ...set, rules: set.rules!.slice(1) }),
      }
    },
  ],
  [
    'association',
    (estate, r) => {
      const [id, subnet] = r.pick([...estate.subnets])
      const [table] = r.pick(
        [...estate.routeTables].filter(([, one]) => one.network === subnet.network),
      )
      return {
        ...estate,
        subnets: new Map(estate.subnets).set(id, { ...subnet, routeTable: table }),
      }
    },
  ],
  [
    'state of a translator',
    (estate, r) => {
      const [id, nat] = r.pick([...estate.nats])
      return {
        ...estate,
        nats: new Map(estate.nats).set(id, {
          ...nat,
          state: nat.state === 'down' ? 'up' : 'down',
        }),
      }
    },
  ],
]

/** Changes of each kind, one after the other, each with all new ways and findings. */
export function benchChanges(
  name: string,
  estate: Estate,
  each: number,
  row: (what: string, value: string) => void,
): void {
  const r = random(44)
  const begun = performance.now()
  const { change } = analyseStanding(estate)
  row(
    `${name}: ways and findings as a standing analysis, from nothing`,
    `${((performance.now() - begun) / 1000).toFixed(1)} s`,
  )
  let current = estate
  for (const [what, make] of CHANGES) {
    const outcomes = Array.from({ length: each }, () => {
      current = make(current, r)
      const start = performance.now()
      const { exits, findingsCome, findingsGone } = change(current)
      return {
        time: performance.now() - start,
        rows: exits.length,
        findings: findingsCome.length + findingsGone.length,
      }
    }).sort((a, b) => a.time - b.time)
    const middle = outcomes[each >> 1]!
    row(
      `${name}: one changed ${what}, new ways and findings, ${each} changes`,
      `${middle.time.toFixed(0)} ms median, ${outcomes.at(-1)!.time.toFixed(0)} ms at most; ${Math.max(...outcomes.map((one) => one.rows))} rows and ${Math.max(...outcomes.map((one) => one.findings))} findings at most`,
    )
  }
}
