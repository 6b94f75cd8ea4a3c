import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import Ajv from 'ajv'
import addFormats from 'ajv-formats'
import { proposalJson } from '../../contract/proposals'
import { demo, file, folder, root, saltTrail } from './running'
import { SARIF_SCHEMA } from './sarif-schema'

describe('check', () => {
  test('an estate in which nothing is wrong: status 0', () => {
    const good = file(
      'good.yaml',
      'format: salt-trail/1\nname: x\nnetworks: { n: { ranges: [10.0.0.0/16] } }\nsubnets: { s: { network: n, ranges: [10.0.1.0/24] } }\n',
    )
    expect(saltTrail('check', good)).toEqual({
      status: 0,
      out: '',
      err: '0 errors, 0 warnings, 0 root causes, 0 findings\n',
    })
    expect(JSON.parse(saltTrail('check', good, '--format', 'json').out)).toEqual({
      errors: [],
      warnings: [],
      rootCauses: [],
      findings: [],
      expectations: [],
    })
  })
  test('the demo: every planted fault is a finding, with its trace', () => {
    const { status, out } = saltTrail('check', ...demo, '--format', 'json')
    expect(status).toBe(1)
    const { findings, expectations } = JSON.parse(out) as {
      findings: {
        code: string
        anchor: string
        evidence: { trace: object | null }
        mend: object | null
      }[]
      expectations: { id: string; state: string; packet?: object; trace?: object }[]
    }
    const dead = findings.find((one) => one.code === 'hole-dead-target')
    expect(dead).toMatchObject({
      anchor: 'routeTables/ticketing-reports',
      // A trial for every finding has its price, so mends are given on demand.
      mend: null,
    })
    expect(findings.find((one) => one.code === 'leak-ipv6')?.evidence.trace).toMatchObject({
      verdict: expect.any(String) as string,
    })
    expect(expectations.find((one) => one.id === 'roster-through-the-wall')).toMatchObject({
      state: 'broken',
      packet: { src: expect.stringContaining(':') as string },
      trace: { forward: { outcome: 'delivered' } },
    })
  })
  test('findings stand under what decides them, or alone with --by finding', () => {
    const files = demo
    const byRoot = saltTrail('check', ...files)
    const [first, second, third] = byRoot.out.split(/^(?=critical|high|medium|low|note)/m)
    expect(first).toContain('hole-nat-without-way-out   nats/nat-telemetry')
    expect(second).toContain(
      [
        'high     The route of route table ticketing-reports to NAT nat-reports: packets are sent to what is missing, down or elsewhere.',
        '         2 findings, 1 subnet, 3 hosts; the internet,',
      ].join('\n'),
    )
    expect(third).toContain('IPv4 from crew-roster-1 passes harbour-wall, but IPv6 leaves')
    expect(byRoot.err).toMatch(/\d+ root causes, \d+ findings/)
    const json = JSON.parse(saltTrail('check', ...files, '--format', 'json').out) as {
      rootCauses: { roots: { findings: string[] }[] }[]
      findings: { fingerprint: string; root: object }[]
    }
    expect(
      json.rootCauses.flatMap(({ roots }) => roots.flatMap((one) => one.findings)).sort(),
    ).toEqual(json.findings.map(({ fingerprint }) => fingerprint).sort())
    const alone = saltTrail('check', ...files, '--by', 'finding')
    expect(alone.out.match(/^(critical|high|medium|low|note) .* \w+\/\S+$/gm)).toHaveLength(
      json.findings.length,
    )
  })

  test('--mends gives every finding its first proposal, as text and as JSON', () => {
    const example = 'examples/nat-without-a-way-out.yaml'
    const { out } = saltTrail('check', example, '--mends')
    expect(out).toMatch(/hole-nat-without-way-out .*\n.*\n +To mend: /)
    expect(saltTrail('check', example).out).not.toContain('To mend')
    const { findings } = JSON.parse(
      saltTrail('check', example, '--mends', '--format', 'json').out,
    ) as { findings: { code: string; mend: unknown }[] }
    const { mend } = findings.find(({ code }) => code === 'hole-nat-without-way-out')!
    expect(proposalJson.parse(mend)).toMatchObject({ reaches: true, harmless: true })
  })
  test('--fail-on counts findings of at least that severity', () => {
    const idle = file(
      'idle.yaml',
      'format: salt-trail/1\nname: x\nnetworks: { n: { ranges: [10.0.0.0/16] } }\nsubnets: { s: { network: n, ranges: [10.0.1.0/24] } }\nruleSets: { unused: { rules: [] } }\n',
    )
    expect(saltTrail('check', idle).status).toBe(1)
    expect(saltTrail('check', idle, '--fail-on', 'high').status).toBe(0)
    const promise = file(
      'promise.yaml',
      'expectations: { apart: { from: subnets/s, to: subnets/s, must: never-reach } }\n',
    )
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
          locations: {
            physicalLocation: {
              artifactLocation: { uri: string }
              region: { startLine: number; startColumn: number }
            }
          }[]
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
    expect(junit).toMatch(
      /<testcase classname="hole-dead-target" .*>\s*<properties>\s*<property name="root" value="route routeTables\/ticketing-reports nats\/nat-reports"\/>/,
    )
    expect(junit).toMatch(/<testcase classname="pass" name="roster-through-the-wall">\s*<failure/)
  })
  test('what the estate as a whole decides has no place in a file', () => {
    const ring = file(
      'ring.json',
      JSON.stringify({
        format: 'salt-trail/1',
        name: 'x',
        networks: { n: { ranges: ['10.0.0.0/16'] } },
        subnets: {
          a: { network: 'n', ranges: ['10.0.0.0/24'], routeTable: 'a' },
          b: { network: 'n', ranges: ['10.0.1.0/24'], routeTable: 'b' },
        },
        interfaces: {
          x: { subnet: 'a', addresses: ['10.0.0.9'], forwards: true },
          y: { subnet: 'b', addresses: ['10.0.1.9'], forwards: true },
        },
        routeTables: {
          a: { network: 'n', routes: [{ to: '172.30.0.0/16', via: { interface: 'y' } }] },
          b: { network: 'n', routes: [{ to: '172.30.0.0/16', via: { interface: 'x' } }] },
        },
      }),
    )
    const { runs } = JSON.parse(saltTrail('check', ring, '--format', 'sarif').out) as {
      runs: [{ results: { ruleId: string; locations: object[] }[] }]
    }
    expect(runs[0].results.find(({ ruleId }) => ruleId === 'hole-loop')!.locations).toEqual([
      { logicalLocations: [{ fullyQualifiedName: 'estate' }] },
    ])
  })
  test('SARIF is valid against the schema of 2.1.0, with findings, warnings or errors in it', () => {
    const isValid = addFormats(new Ajv({ allErrors: true, strict: false })).compile(SARIF_SCHEMA)
    const bad = file(
      'bad sarif.yaml',
      'format: salt-trail/1\nname: x\nsites:\n  s: { ranges: [10.0.0.1/8] }\n',
    )
    for (const files of [demo, [bad]]) {
      const log = JSON.parse(saltTrail('check', ...files, '--format', 'sarif').out) as {
        runs: [{ results: { message: unknown }[] }]
      }
      isValid(log)
      expect(isValid.errors ?? []).toEqual([])
      expect(log.runs[0].results.length).toBeGreaterThan(0)
      // The schema can fail: a result without its message, and a name that SARIF does not have.
      expect(
        isValid({
          ...log,
          runs: [{ ...log.runs[0], results: [{ ...log.runs[0].results[0], message: undefined }] }],
        }),
      ).toBe(false)
      expect(isValid({ ...log, findings: [] })).toBe(false)
    }
  })
  test('errors: status 2, each with its place', () => {
    const bad = file(
      'bad.yaml',
      'format: salt-trail/1\nname: x\nsites:\n  s: { ranges: [10.0.0.1/8] }\n',
    )
    const text = saltTrail('check', bad)
    expect(text.status).toBe(2)
    expect(text.err).toContain(
      `${bad}:4:17: error: sites/s: ranges[1]: "10.0.0.1/8" has host bits set; the prefix meant is 10.0.0.0/8 [host-bits]`,
    )
    const json = saltTrail('check', bad, '--format', 'json')
    expect(json.status).toBe(2)
    expect(JSON.parse(json.out)).toEqual({
      rootCauses: [],
      findings: [],
      expectations: [],
      errors: [
        {
          code: 'host-bits',
          message:
            'sites/s: ranges[1]: "10.0.0.1/8" has host bits set; the prefix meant is 10.0.0.0/8',
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
    const odd = file(
      'odd.yaml',
      'format: salt-trail/1\nname: x\nsites: { s: {} }\nparties: { s: {} }\n',
    )
    expect(saltTrail('check', odd)).toMatchObject({ status: 1 })
  })
  test('JSON nested 100,000 deep, and 200,000 problems: status 2 and sentences, never a stack', () => {
    const deep = file(
      'deep.json',
      `{"format":"salt-trail/1","name":"x","networks":{"a":{"ranges":${'['.repeat(100_000)}${']'.repeat(100_000)}}}}`,
    )
    const nested = saltTrail('check', deep)
    expect(nested).toMatchObject({
      status: 2,
      out: '',
      err: expect.stringContaining('nested too deeply'),
    })
    expect(nested.err.trim().split('\n')).toHaveLength(2)
    const same = Array.from({ length: 200_000 }, (_, n) => `"i${n}":{"subnet":"s"}`)
    const many = saltTrail(
      'check',
      file('many.json', `{"format":"salt-trail/1","name":"x","interfaces":{${same.join()}}}`),
    )
    expect(many).toMatchObject({ status: 2, err: expect.stringContaining('200000 errors') })
    expect(many.err).not.toContain('RangeError')
  }, 120_000)
  test('a file that is not there, and a folder', () => {
    expect(saltTrail('check', join(folder, 'gone.yaml'))).toMatchObject({
      status: 2,
      err: expect.stringContaining('is not there'),
    })
    expect(saltTrail('check', folder)).toMatchObject({
      status: 2,
      err: expect.stringContaining('is a folder'),
    })
  })
})
