import { compile, findAll, rootCauses, SEVERITIES, type Estate } from '../../src/index'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

/** Some spokes whose private hosts are led to the internet by a door, each by a table of its own. */
function spokes(names: readonly string[], target = 'door'): Estate {
  const each = <T>(of: (name: string, at: number) => [string, T]): Record<string, T> =>
    Object.fromEntries(names.map((name, at) => of(name, at)))
  return estateOfJson({
    networks: each((name, at) => [name, { ranges: [`10.${at}.0.0/16`] }]),
    subnets: each((name, at) => [
      `${name}-s`,
      { network: name, ranges: [`10.${at}.0.0/24`], role: 'private', routeTable: `${name}-t` },
    ]),
    interfaces: each((name, at) => [
      `${name}-h`,
      { subnet: `${name}-s`, addresses: [`10.${at}.0.9`], publicAddress: `203.0.113.${at}` },
    ]),
    gateways: each((name) => [`${name}-door`, { kind: 'internet', network: name }]),
    routeTables: each((name) => [
      `${name}-t`,
      { network: name, routes: [{ to: '0.0.0.0/0', via: { gateway: `${name}-${target}` } }] },
    ]),
  })
}

const causesOf = (estate: Estate) => {
  const model = compile(estate)
  return rootCauses(model, findAll(model)!.findings)
}

test('routes of many tables that decide alike are one entry, with all their findings', () => {
  const [leak] = causesOf(spokes(['quay', 'dock', 'pier'])).filter(
    ({ code }) => code === 'leak-direct',
  )
  expect(leak).toMatchObject({
    severity: 'high',
    sentence:
      'Routes of 3 route tables to gateways: hosts declared private or isolated reach the internet directly.',
    findings: 3,
    subnets: 3,
    hosts: 3,
    concerns: ['the internet'],
  })
  expect(leak!.roots.map(({ root }) => root)).toEqual(
    ['dock', 'pier', 'quay'].map((name) => ({
      kind: 'route',
      object: `routeTables/${name}-t`,
      part: `gateways/${name}-door`,
    })),
  )
})

test('an entry keeps its fingerprint whoever joins it, and whatever its objects are called', () => {
  const known = (estate: Estate): string[] => causesOf(estate).map(({ fingerprint }) => fingerprint)
  const one = known(spokes(['quay']))
  expect(known(spokes(['quay', 'dock'])).sort()).toEqual(one.sort())
  expect(known(spokes(['salt', 'brine'])).sort()).toEqual(one.sort())
})

test('findings of other codes that one route decides are in its entry', () => {
  const [dead] = causesOf(spokes(['quay'], 'missing')).filter(
    ({ code }) => code === 'hole-dead-target',
  )
  expect(dead!.codes.map(({ code }) => code).sort()).toEqual([
    'hole-dead-target',
    'hole-no-way-back',
    'hole-no-way-out',
  ])
  expect(dead!.roots).toHaveLength(1)
})

const seeds = Array.from({ length: runs(12) }, (_, at) => at + 1)

test.each(seeds)('every finding of estate %i is in one entry, the gravest first', (seed) => {
  const model = compile(estateOfJson(randomEstate(seed).estate))
  const { findings } = findAll(model)!
  const causes = rootCauses(model, findings)
  const told = causes.flatMap(({ roots }) => roots.flatMap((one) => one.findings))
  expect(told.map(({ fingerprint }) => fingerprint).sort()).toEqual(
    findings.map(({ fingerprint }) => fingerprint).sort(),
  )
  const ranks = causes.map(({ severity }) => SEVERITIES.indexOf(severity))
  expect(ranks).toEqual([...ranks].sort((a, b) => a - b))
  expect(new Set(causes.map(({ fingerprint }) => fingerprint)).size).toBe(causes.length)
  for (const { sentence, roots, severity, code } of causes) {
    expect(sentence).toMatch(/^\S.+\.$/)
    expect(roots[0]!.findings[0]).toMatchObject({ severity, code })
    for (const { root, findings: own } of roots)
      for (const one of own) expect(one.root).toEqual(root)
  }
})

test('a ring that only addresses nobody has meet is one note for the estate', () => {
  const estate = estateOfJson({
    networks: { n: { ranges: ['10.0.0.0/16'] } },
    subnets: Object.fromEntries(
      [0, 1].map((at) => [
        `s${at}`,
        { network: 'n', ranges: [`10.0.${at}.0/24`], routeTable: `t${at}` },
      ]),
    ),
    interfaces: Object.fromEntries(
      [0, 1].map((at) => [
        `r${at}`,
        { subnet: `s${at}`, addresses: [`10.0.${at}.10`], forwards: true },
      ]),
    ),
    routeTables: Object.fromEntries(
      [0, 1].map((at) => [
        `t${at}`,
        { network: 'n', routes: [{ to: '172.30.0.0/16', via: { interface: `r${1 - at}` } }] },
      ]),
    ),
  })
  const rings = findAll(compile(estate))!.findings.filter(({ code }) => code === 'hole-loop')
  expect(rings).toHaveLength(1)
  expect(rings[0]).toMatchObject({
    severity: 'note',
    anchor: 'estate',
    sentence:
      'Packets to private space nobody has go round in a ring until they are dropped. Nobody is there to miss them.',
  })
})
