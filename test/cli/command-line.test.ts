import { spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import Ajv from 'ajv'
import addFormats from 'ajv-formats'
import { SARIF_SCHEMA } from './sarif-schema'

const root = join(__dirname, '../..')
const folder = mkdtempSync(join(tmpdir(), 'salt-trail-cli-'))
afterAll(() => rmSync(folder, { recursive: true }))

function saltTrail(...args: string[]): { status: number | null; out: string; err: string } {
  const { status, stdout, stderr } = spawnSync(process.execPath, [join(root, 'bin/salt-trail'), ...args], {
    encoding: 'utf8',
    cwd: root,
    input: '',
    maxBuffer: 1e9,
  })
  return { status, out: stdout, err: stderr }
}
function file(name: string, text: string): string {
  const path = join(folder, name)
  writeFileSync(path, text)
  return path
}
const demo = readdirSync(join(root, 'demo'))
  .filter((name) => name.endsWith('.yaml'))
  .map((name) => join('demo', name))

describe('check', () => {
  test('an estate in which nothing is wrong: status 0', () => {
    const good = file(
      'good.yaml',
      'format: salt-trail/1\nname: x\nnetworks: { n: { ranges: [10.0.0.0/16] } }\nsubnets: { s: { network: n, ranges: [10.0.1.0/24] } }\n',
    )
    expect(saltTrail('check', good)).toEqual({ status: 0, out: '', err: '0 errors, 0 warnings, 0 findings\n' })
    expect(JSON.parse(saltTrail('check', good, '--format', 'json').out)).toEqual({ errors: [], warnings: [], findings: [], expectations: [] })
  })
  test('the demo: every planted fault is a finding, with its mend and its trace', () => {
    const { status, out } = saltTrail('check', ...demo, '--format', 'json')
    expect(status).toBe(1)
    const { findings, expectations } = JSON.parse(out) as {
      findings: { code: string; anchor: string; evidence: { trace: object | null }; mend: object | null }[]
      expectations: { id: string; state: string; packet?: object; trace?: object }[]
    }
    const dead = findings.find((one) => one.code === 'hole-dead-target')
    expect(dead).toMatchObject({ anchor: 'routeTables/ticketing-reports', mend: { changes: [{ op: 'remove' }] } })
    expect(findings.find((one) => one.code === 'leak-ipv6')?.evidence.trace).toMatchObject({ verdict: expect.any(String) as string })
    expect(expectations.find((one) => one.id === 'roster-through-the-wall')).toMatchObject({
      state: 'broken',
      packet: { src: expect.stringContaining(':') as string },
      trace: { forward: { outcome: 'delivered' } },
    })
  })
  test('--fail-on counts only what is as grave', () => {
    const idle = file(
      'idle.yaml',
      'format: salt-trail/1\nname: x\nnetworks: { n: { ranges: [10.0.0.0/16] } }\nsubnets: { s: { network: n, ranges: [10.0.1.0/24] } }\nruleSets: { unused: { rules: [] } }\n',
    )
    expect(saltTrail('check', idle).status).toBe(1)
    expect(saltTrail('check', idle, '--fail-on', 'high').status).toBe(0)
    const promise = file('promise.yaml', 'expectations: { apart: { from: subnets/s, to: subnets/s, must: never-reach } }\n')
    expect(saltTrail('check', idle, '--expectations', promise, '--fail-on', 'high')).toMatchObject({
      status: 1,
      out: expect.stringContaining('broken') as string,
    })
  })
  test('SARIF has every finding at the place of its object, JUnit every expectation as a case', () => {
    const { runs, version } = JSON.parse(saltTrail('check', ...demo, '--format', 'sarif').out) as {
      version: string
      runs: {
        results: {
          ruleId: string
          ruleIndex: number
          locations: { physicalLocation: { artifactLocation: { uri: string }; region: { startLine: number; startColumn: number } } }[]
        }[]
        tool: { driver: { rules: { id: string }[] } }
      }[]
    }
    expect(version).toBe('2.1.0')
    const [run] = runs
    const dead = run!.results.find((one) => one.ruleId === 'hole-dead-target')!
    expect(run!.tool.driver.rules[dead.ruleIndex]!.id).toBe('hole-dead-target')
    const { artifactLocation, region } = dead.locations[0]!.physicalLocation
    expect(artifactLocation.uri).toBe('demo/20-ticketing.yaml')
    expect(
      readFileSync(join(root, artifactLocation.uri), 'utf8')
        .split('\n')
        [region.startLine - 1]!.slice(region.startColumn - 1),
    ).toMatch(/^ticketing-reports:/)
    const junit = saltTrail('check', ...demo, '--format', 'junit').out
    expect(junit).toContain('<testcase classname="never-reach" name="pay-stays-home"/>')
    expect(junit).toMatch(/<testcase classname="pass" name="roster-through-the-wall">\s*<failure/)
  })
  test('SARIF is valid against the schema of 2.1.0, with findings, warnings or errors in it', () => {
    const isValid = addFormats(new Ajv({ allErrors: true, strict: false })).compile(SARIF_SCHEMA)
    const bad = file('bad sarif.yaml', 'format: salt-trail/1\nname: x\nsites:\n  s: { ranges: [10.0.0.1/8] }\n')
    for (const files of [demo, [bad]]) {
      const log = JSON.parse(saltTrail('check', ...files, '--format', 'sarif').out) as { runs: [{ results: { message: unknown }[] }] }
      isValid(log)
      expect(isValid.errors ?? []).toEqual([])
      expect(log.runs[0].results.length).toBeGreaterThan(0)
      // The schema can fail: a result without its message, and a name that SARIF does not have.
      expect(isValid({ ...log, runs: [{ ...log.runs[0], results: [{ ...log.runs[0].results[0], message: undefined }] }] })).toBe(false)
      expect(isValid({ ...log, findings: [] })).toBe(false)
    }
  })
  test('errors: status 2, each with its place', () => {
    const bad = file('bad.yaml', 'format: salt-trail/1\nname: x\nsites:\n  s: { ranges: [10.0.0.1/8] }\n')
    const text = saltTrail('check', bad)
    expect(text.status).toBe(2)
    expect(text.err).toContain(`${bad}:4:17: error: sites/s: ranges[1]: "10.0.0.1/8" has host bits set; the prefix meant is 10.0.0.0/8 [host-bits]`)
    const json = saltTrail('check', bad, '--format', 'json')
    expect(json.status).toBe(2)
    expect(JSON.parse(json.out)).toEqual({
      findings: [],
      expectations: [],
      errors: [
        {
          code: 'host-bits',
          message: 'sites/s: ranges[1]: "10.0.0.1/8" has host bits set; the prefix meant is 10.0.0.0/8',
          file: bad,
          line: 4,
          column: 17,
          object: 'sites/s',
          suggestion: '10.0.0.0/8',
        },
      ],
      warnings: [],
    })
  })
  test('warnings: status 1', () => {
    const odd = file('odd.yaml', 'format: salt-trail/1\nname: x\nsites: { s: {} }\nparties: { s: {} }\n')
    expect(saltTrail('check', odd)).toMatchObject({ status: 1 })
  })
  test('JSON nested 100,000 deep, and 200,000 problems: status 2 and sentences, never a stack', () => {
    const deep = file('deep.json', `{"format":"salt-trail/1","name":"x","networks":{"a":{"ranges":${'['.repeat(100_000)}${']'.repeat(100_000)}}}}`)
    const nested = saltTrail('check', deep)
    expect(nested).toMatchObject({ status: 2, out: '', err: expect.stringContaining('nested too deeply') })
    expect(nested.err.trim().split('\n')).toHaveLength(2)
    const same = Array.from({ length: 200_000 }, (_, n) => `"i${n}":{"subnet":"s"}`)
    const many = saltTrail('check', file('many.json', `{"format":"salt-trail/1","name":"x","interfaces":{${same.join()}}}`))
    expect(many).toMatchObject({ status: 2, err: expect.stringContaining('200000 errors') })
    expect(many.err).not.toContain('RangeError')
  }, 120_000)
  test('a file that is not there, and a folder', () => {
    expect(saltTrail('check', join(folder, 'gone.yaml'))).toMatchObject({ status: 2, err: expect.stringContaining('is not there') })
    expect(saltTrail('check', folder)).toMatchObject({ status: 2, err: expect.stringContaining('is a folder') })
  })
})

describe('trace', () => {
  test('works: status 0, seen as and way', () => {
    const { status, out } = saltTrail('trace', ...demo, '--from', 'interface:seat-plan-1', '--to', 'party:fuel-broker', '--protocol', 'tcp', '--port', '443')
    expect(status).toBe(0)
    expect(out).toContain('works')
    expect(out).toContain('seen as 203.0.113.11, leaves by gateways/ticketing-door')
  })
  test('lost: status 1, with the cause', () => {
    const { status, out } = saltTrail('trace', ...demo, '--from', 'interface:seat-plan-2', '--to', 'internet', '--port', '443', '--json')
    expect(status).toBe(1)
    expect(JSON.parse(out)).toMatchObject({
      verdict: 'blackholed',
      cause: { code: 'no-route', object: 'routeTables/ticketing-default', direction: 'forward', station: 2 },
    })
  })
  test('the source port reaches a stateless list', () => {
    const ask = (port: string) =>
      saltTrail('trace', ...demo, '--from', 'internet', '--to', 'interface:booking-2', '--port', '443', '--source-port', port).status
    expect([ask('20000'), ask('50000')]).toEqual([0, 1])
  })
  test('--continue goes on past the fault', () => {
    const { out } = saltTrail('trace', ...demo, '--from', 'interface:seat-plan-2', '--to', 'internet', '--port', '443', '--json', '--continue')
    expect(JSON.parse(out)).toMatchObject({ verdict: 'blackholed', assumed: [{ what: 'a route leads there' }, { what: 'the source has a public address' }] })
  })
  test.each([
    [['--from', 'interface:nobody', '--to', 'internet', '--port', '443'], 'there is no interface "nobody"'],
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
    expect(saltTrail('trace', bad, '--from', 'internet', '--to', 'internet', '--port', '1')).toMatchObject({
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
    const { status, out, err } = saltTrail('trace', ...demo, '--questions', file('q.json', JSON.stringify(questions)), '--json')
    expect(status).toBe(2)
    expect(JSON.parse(out)).toMatchObject([{ verdict: 'works' }, { error: { code: 'unknown-object' } }, { verdict: 'blackholed' }])
    expect(err).toContain('nobody')
  })
  test('an answer is the same alone and among many', () => {
    const question = { from: 'interface:seat-plan-1', to: '198.51.100.80', protocol: 'tcp', port: 443 }
    const alone = JSON.parse(saltTrail('trace', ...demo, '--from', question.from, '--to', question.to, '--port', '443', '--json').out)
    const many = JSON.parse(saltTrail('trace', ...demo, '--questions', file('q2.json', JSON.stringify([question])), '--json').out)
    expect(many).toEqual([alone])
  })
  test.each([
    ['{}', 'array of questions'],
    ['[1]', 'question 1'],
    ['nonsense', 'no JSON'],
  ])('%s is refused', (text, message) => {
    expect(saltTrail('trace', ...demo, '--questions', file('q3.json', text))).toMatchObject({ status: 2, err: expect.stringContaining(message) })
  })
})

test('help is no failure', () => {
  expect(saltTrail('--help')).toMatchObject({ status: 0, out: expect.stringContaining('Exit status: 0 fine') })
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
      kinds: { ranges: { from: string; to: string; winners: { to: string }[]; cause: { code: string } | null }[] }[]
    }[]
    const ranges = subnet!.kinds[0]!.ranges
    expect([subnet!.subnet, ranges[0]!.from, ranges.at(-1)!.to]).toEqual(['subnets/s', '0.0.0.0', '255.255.255.255'])
    expect(ranges.find((range) => range.from === '10.0.1.0')).toMatchObject({ to: '10.0.1.255', winners: [{ to: '10.0.0.0/16' }], cause: null })
    expect(saltTrail('hops', before, '--csv').out.split('\n')[0]).toBe('subnet,hosts,from,to,winner,origin,next hop,way,leaves by,seen as,cause,shadowed')
    expect(saltTrail('hops', before, '--subnet', 'gone')).toMatchObject({ status: 2, err: expect.stringContaining('there is no subnet "gone"') as string })
  })
  test('ways-in names who comes in, and by what', () => {
    const [web] = JSON.parse(saltTrail('ways-in', ...demo, '--subnet', 'ticketing-web-1', '--json').out) as {
      ways: { from: string; to: string; packets: { dst: string; dstPorts: string }[] }[]
    }[]
    const internet = web!.ways.find((way) => way.from === 'internet' && way.to === 'interfaces/booking-1')!
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
      findings: { come: { code: string }[] }
    }
    expect(objects.map((one) => one.object)).toEqual(['routeTables/t'])
    expect(ways[0]).toMatchObject({ subnet: 'subnets/s', after: { cause: { code: 'target-missing' } } })
    expect(findings.come.map((one) => one.code)).toContain('hole-dead-target')
  })
})
