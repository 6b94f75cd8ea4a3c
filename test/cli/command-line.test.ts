import { spawnSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

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
  test('a good estate: status 0', () => {
    expect(saltTrail('check', ...demo)).toEqual({ status: 0, out: '', err: '0 errors, 0 warnings\n' })
    expect(JSON.parse(saltTrail('check', ...demo, '--format', 'json').out)).toEqual({ errors: [], warnings: [] })
  })
  test('errors: status 2, each with its place', () => {
    const bad = file('bad.yaml', 'format: salt-trail/1\nname: x\nsites:\n  s: { ranges: [10.0.0.1/8] }\n')
    const text = saltTrail('check', bad)
    expect(text.status).toBe(2)
    expect(text.err).toContain(`${bad}:4:17: error: sites/s: ranges[1]: "10.0.0.1/8" has host bits set; the prefix meant is 10.0.0.0/8 [host-bits]`)
    const json = saltTrail('check', bad, '--format', 'json')
    expect(json.status).toBe(2)
    expect(JSON.parse(json.out)).toEqual({
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
