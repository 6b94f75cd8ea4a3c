import { demo, file, saltTrail } from './running'

describe('trace', () => {
  test('works: status 0, seen as and way', () => {
    const { status, out } = saltTrail(
      'trace',
      ...demo,
      '--from',
      'interface:seat-plan-1',
      '--to',
      'party:fuel-broker',
      '--protocol',
      'tcp',
      '--port',
      '443',
    )
    expect(status).toBe(0)
    expect(out).toContain('works')
    expect(out).toContain('seen as 203.0.113.11, leaves by gateways/ticketing-door')
  })
  test('lost: status 1, with the cause', () => {
    const { status, out } = saltTrail(
      'trace',
      ...demo,
      '--from',
      'interface:seat-plan-2',
      '--to',
      'internet',
      '--port',
      '443',
      '--json',
    )
    expect(status).toBe(1)
    expect(JSON.parse(out)).toMatchObject({
      verdict: 'blackholed',
      cause: {
        code: 'no-route',
        object: 'routeTables/ticketing-default',
        direction: 'forward',
        station: 2,
      },
    })
  })
  test('the source port reaches a stateless list', () => {
    const ask = (port: string) =>
      saltTrail(
        'trace',
        ...demo,
        '--from',
        'internet',
        '--to',
        'interface:booking-2',
        '--port',
        '443',
        '--source-port',
        port,
      ).status
    expect([ask('20000'), ask('50000')]).toEqual([0, 1])
  })
  test('--continue goes on past the fault', () => {
    const { out } = saltTrail(
      'trace',
      ...demo,
      '--from',
      'interface:seat-plan-2',
      '--to',
      'internet',
      '--port',
      '443',
      '--json',
      '--continue',
    )
    expect(JSON.parse(out)).toMatchObject({
      verdict: 'blackholed',
      assumed: [{ what: 'a route leads there' }, { what: 'the source has a public address' }],
    })
  })
  test.each([
    [
      ['--from', 'interface:nobody', '--to', 'internet', '--port', '443'],
      'there is no interface "nobody"',
    ],
    [['--from', 'interface:seat-plan-1', '--to', 'internet'], 'needs a destination port'],
    [['--from', 'interface:seat-plan-1'], '--from and --to'],
    [['--from', 'interface:seat-plan-1', '--to', 'internet', '--port', '99999'], 'from 0 to 65535'],
    [['--from', 'interface:seat-plan-1', '--to', 'internet', '--porto', '1'], 'unknown option'],
    [['--questions', '/nowhere.json'], 'is not there'],
  ])('%j is refused with status 2', (args, message) => {
    const { status, out, err } = saltTrail('trace', ...demo, ...args)
    expect({ status, out }).toEqual({ status: 2, out: '' })
    expect(err).toContain(message)
  })
  test('an estate with errors is refused with status 2', () => {
    const bad = file('bad2.yaml', 'format: salt-trail/1\nnmae: x\n')
    expect(
      saltTrail('trace', bad, '--from', 'internet', '--to', 'internet', '--port', '1'),
    ).toMatchObject({
      status: 2,
      err: expect.stringContaining(':2:1: error:'),
    })
  })
})

describe('many questions', () => {
  test('are answered in order, and a refused one in its place', () => {
    const questions = [
      { from: 'interface:seat-plan-1', to: 'internet', protocol: 'tcp', port: 443 },
      { from: 'interface:nobody', to: 'internet', protocol: 'tcp', port: 443 },
      { from: 'interface:seat-plan-2', to: 'internet', protocol: 'tcp', port: 443, continue: true },
    ]
    const { status, out, err } = saltTrail(
      'trace',
      ...demo,
      '--questions',
      file('q.json', JSON.stringify(questions)),
      '--json',
    )
    expect(status).toBe(2)
    expect(JSON.parse(out)).toMatchObject([
      { verdict: 'works' },
      { error: { code: 'unknown-object' } },
      { verdict: 'blackholed' },
    ])
    expect(err).toContain('nobody')
  })
  test('an answer is the same alone and among many', () => {
    const question = {
      from: 'interface:seat-plan-1',
      to: '198.51.100.80',
      protocol: 'tcp',
      port: 443,
    }
    const alone = JSON.parse(
      saltTrail(
        'trace',
        ...demo,
        '--from',
        question.from,
        '--to',
        question.to,
        '--port',
        '443',
        '--json',
      ).out,
    )
    const many = JSON.parse(
      saltTrail(
        'trace',
        ...demo,
        '--questions',
        file('q2.json', JSON.stringify([question])),
        '--json',
      ).out,
    )
    expect(many).toEqual([alone])
  })
  test.each([
    ['{}', 'array of questions'],
    ['[1]', 'question 1'],
    ['nonsense', 'no JSON'],
  ])('%s is refused', (text, message) => {
    expect(saltTrail('trace', ...demo, '--questions', file('q3.json', text))).toMatchObject({
      status: 2,
      err: expect.stringContaining(message),
    })
  })
})

test('help is no failure', () => {
  expect(saltTrail('--help')).toMatchObject({
    status: 0,
    out: expect.stringContaining('Exit status: 0 fine'),
  })
})

describe('hops, ways-in, diff', () => {
  const [before, after] = [
    file(
      'old.yaml',
      'format: salt-trail/1\nname: x\nnetworks: { n: { ranges: [10.0.0.0/16] } }\nsubnets: { s: { network: n, ranges: [10.0.1.0/24], routeTable: t } }\ngateways: { door: { kind: internet, network: n } }\nrouteTables: { t: { network: n, routes: [{ to: 0.0.0.0/0, via: { gateway: door } }] } }\n',
    ),
    file(
      'new.yaml',
      'format: salt-trail/1\nname: x\nnetworks: { n: { ranges: [10.0.0.0/16] } }\nsubnets: { s: { network: n, ranges: [10.0.1.0/24], routeTable: t } }\ngateways: { door: { kind: internet, network: n } }\nrouteTables: { t: { network: n, routes: [{ to: 0.0.0.0/0, via: { nat: gone } }] } }\n',
    ),
  ]
  test('hops prints the whole space of a subnet, as text, JSON and CSV', () => {
    expect(saltTrail('hops', before, '--subnet', 's').out).toContain('10.0.1.0 - 10.0.1.255')
    const [subnet] = JSON.parse(saltTrail('hops', before, '--json').out) as {
      subnet: string
      kinds: {
        ranges: {
          from: string
          to: string
          winners: { to: string }[]
          cause: { code: string } | null
        }[]
      }[]
    }[]
    const ranges = subnet!.kinds[0]!.ranges
    expect([subnet!.subnet, ranges[0]!.from, ranges.at(-1)!.to]).toEqual([
      'subnets/s',
      '0.0.0.0',
      '255.255.255.255',
    ])
    expect(ranges.find((range) => range.from === '10.0.1.0')).toMatchObject({
      to: '10.0.1.255',
      winners: [{ to: '10.0.0.0/16' }],
      cause: null,
    })
    expect(saltTrail('hops', before, '--csv').out.split('\n')[0]).toBe(
      'subnet,hosts,from,to,winner,origin,next hop,way,leaves by,seen as,cause,shadowed',
    )
    expect(saltTrail('hops', before, '--subnet', 'gone')).toMatchObject({
      status: 2,
      err: expect.stringContaining('there is no subnet "gone"') as string,
    })
  })
  test('ways-in names who comes in, and by what', () => {
    const [web] = JSON.parse(
      saltTrail('ways-in', ...demo, '--subnet', 'ticketing-web-1', '--json').out,
    ) as {
      ways: { from: string; to: string; packets: { dst: string; dstPorts: string }[] }[]
    }[]
    const internet = web!.ways.find(
      (way) => way.from === 'internet' && way.to === 'interfaces/booking-1',
    )!
    expect(new Set(internet.packets.map((box) => box.dstPorts))).toEqual(new Set(['443']))
    expect(internet.packets.some((box) => box.dst === '203.0.113.5')).toBe(true)
    expect(internet.packets.some((box) => box.dst === '10.40.1.10')).toBe(false)
  })
  test('diff tells objects, ways, findings; nothing changed is status 0', () => {
    expect(saltTrail('diff', before, before)).toMatchObject({ status: 0 })
    const { status, out } = saltTrail('diff', before, after, '--json')
    expect(status).toBe(1)
    const { objects, ways, findings } = JSON.parse(out) as {
      objects: { object: string }[]
      ways: { subnet: string; after: { cause: { code: string } } }[]
      findings: { came: { code: string }[] }
    }
    expect(objects.map((one) => one.object)).toEqual(['routeTables/t'])
    expect(ways[0]).toMatchObject({
      subnet: 'subnets/s',
      after: { cause: { code: 'target-missing' } },
    })
    expect(findings.came.map((one) => one.code)).toContain('hole-dead-target')
  })
})
