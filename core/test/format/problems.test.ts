import { readEstate } from '../../src/index'
import { BASE, LINES, read } from './base'
import { WRONG } from './wrong'

test('the base is valid', () => {
  expect(read(BASE)).toEqual([])
})

/**
 * A case for a section the base has already goes into a file of its own: documents are merged by
 * section.
 */
function filesOf(add: string): { name: string; text: string }[] {
  const section = /^(SUBNET|ROUTES) /.exec(add)?.[1]
  if (!section) return [{ name: 'try.yaml', text: `${BASE}${add}\n` }]
  const body = add.replace(/^(SUBNET|ROUTES) /, '')
  return [
    { name: 'base.yaml', text: BASE },
    {
      name: 'try.yaml',
      text: `${section === 'SUBNET' ? 'subnets' : 'routeTables'}: { ${body} }\n`,
    },
  ]
}

describe('each fault is told with its place', () => {
  test.each(Object.entries(WRONG).filter(([name]) => name !== 'a dangling zone'))(
    '%s',
    (_, wrong) => {
      const files = filesOf(wrong.add)
      const { estate, problems } = readEstate(files)
      const inOwnFile = files.length > 1
      const prefix = inOwnFile
        ? wrong.add.startsWith('SUBNET')
          ? 'subnets: { '.length - 'SUBNET '.length
          : 'routeTables: { '.length - 'ROUTES '.length
        : 0
      expect(problems).toHaveLength(1)
      expect(problems[0]).toMatchObject({
        severity: wrong.severity ?? 'error',
        code: wrong.code,
        file: 'try.yaml',
        line: inOwnFile ? 1 : LINES + wrong.line,
        column: wrong.column + prefix,
        object: wrong.object,
        ...(wrong.suggestion === undefined ? {} : { suggestion: wrong.suggestion }),
      })
      expect(estate === null).toBe(wrong.severity !== 'warning')
    },
  )

  test('a zone that no region has', () => {
    const problems = read(BASE.replace('zone: n1 }', 'zone: n3 }'))
    expect(problems).toMatchObject([
      { code: 'dangling-reference', object: 'subnets/web', suggestion: 'n1' },
    ])
  })

  test('networks that overlap and are connected', () => {
    const overlapping = BASE.replace(
      'pier: { ranges: [10.2.0.0/16] }',
      'pier: { ranges: [10.1.128.0/17] }',
    )
    const peered = `${overlapping}peerings:\n  p: { a: { network: shop }, b: { network: pier } }\n`
    expect(read(overlapping)).toEqual([])
    expect(read(peered)).toMatchObject([
      { severity: 'warning', code: 'networks-overlap', object: 'peerings/p' },
    ])
    const transit = `${overlapping}transits:\n  t: { attachments: { a: { network: shop }, b: { network: pier } } }\n`
    expect(read(transit)).toMatchObject([{ code: 'networks-overlap', object: 'transits/t' }])
    const site = `${overlapping}sites:\n  s: {}\ngateways:\n  g1: { kind: private, network: shop, site: s }\n  g2: { kind: private, network: pier, site: s }\n`
    expect(read(site)).toMatchObject([{ code: 'networks-overlap', object: 'sites/s' }])
  })

  test('two routes to one prefix are fine in a priority-routed network', () => {
    const text = BASE.replace(
      'pier: { ranges',
      'pier: { behaviour: priority-routed, ranges',
    ).replace(
      'main: { network: shop }',
      'main: { network: shop }\n  all: { network: pier, routes: [{ to: 0.0.0.0/0, via: drop }, { to: 0.0.0.0/0, via: local }] }',
    )
    expect(read(text)).toEqual([])
  })
})
