import { consequencesAnswer } from '../../contract/consequences'
import { demo, file, saltTrail } from './running'

interface Told {
  readonly cut: readonly { readonly from: readonly string[]; readonly to: readonly string[] }[]
  readonly opened: readonly unknown[]
  readonly objects: readonly { readonly object: string }[]
  readonly leftOut: readonly string[]
  readonly complete: boolean
}

const told = (...args: string[]): Told & { status: number | null } => {
  const { status, out, err } = saltTrail(...args, '--json')
  if (out === '') throw new Error(err)
  const document: unknown = JSON.parse(out)
  return { ...(consequencesAnswer.parse(document) as Told), status }
}

const patch = (name: string, ...operations: object[]): string =>
  file(name, JSON.stringify(operations))

describe('what-if', () => {
  test('a patch that cuts: status 1, with the rows as text and as JSON', () => {
    const down = patch('down.json', { op: 'add', path: '/nats/nat-ticketing/state', value: 'down' })
    const { status, cut, objects } = told('what-if', ...demo, '--patch', down)
    expect(status).toBe(1)
    expect(objects.map(({ object }) => object)).toEqual(['nats/nat-ticketing'])
    expect(cut.some(({ to }) => to.includes('internet'))).toBe(true)
    const text = saltTrail('what-if', ...demo, '--patch', down).out
    expect(text).toMatch(/Cut:\n {2}.* to .*the internet/)
  })

  test('a title changes nothing: status 0', () => {
    const title = patch('title.json', {
      op: 'add',
      path: '/nats/nat-ticketing/note',
      value: 'Looked at in autumn',
    })
    expect(told('what-if', ...demo, '--patch', title)).toMatchObject({
      status: 0,
      cut: [],
      opened: [],
      complete: true,
    })
  })

  test('findings that come below --fail-on are no failure', () => {
    const idle = patch('idle.json', {
      op: 'add',
      path: '/routeTables/spare',
      value: { network: 'ticketing' },
    })
    expect(told('what-if', ...demo, '--patch', idle).status).toBe(1)
    expect(told('what-if', ...demo, '--patch', idle, '--fail-on', 'high').status).toBe(0)
  })

  test('an outage tells what spans the zone’s region and is left out', () => {
    const { status, cut, leftOut, complete } = told('what-if', ...demo, '--fail', 'zone:north-2')
    expect(status).toBe(1)
    expect(cut.length).toBeGreaterThan(0)
    expect(complete).toBe(leftOut.length === 0)
    // Files may follow what fails, and several things fail at once.
    const { out } = saltTrail(
      'what-if',
      '--fail',
      'gateways/harbour-circuit',
      'nats/nat-ticketing',
      ...demo,
    )
    expect(out).toContain('harbour-control')
  })

  test.each([
    [['--patch', 'nowhere.json'], 'nowhere.json is not there'],
    [
      ['--patch', 'x', '--fail', 'zone:north-1'],
      'what-if needs either --patch PATCH.json, or --fail zone:ID or section/ID',
    ],
    [['--fail', 'zone:moon'], 'there is no zone "moon"'],
  ])('refuses %j', (flags, why) => {
    expect(saltTrail('what-if', ...demo, ...flags)).toMatchObject({
      status: 2,
      out: '',
      err: expect.stringContaining(why) as string,
    })
  })

  test('a patch that cannot be made says which operation, and why', () => {
    const wrong = patch(
      'wrong.json',
      { op: 'test', path: '/name', value: 'Halite Ferries' },
      { op: 'remove', path: '/nats/none' },
    )
    const { status, err } = saltTrail('what-if', ...demo, '--patch', wrong)
    expect(status).toBe(2)
    expect(err).toMatch(/operation 2 \(\/nats\/none\)/)
  })

  test('an estate that would be invalid is refused with its errors', () => {
    const broken = patch('broken.json', {
      op: 'add',
      path: '/subnets/ticketing-app-1/routeTable',
      value: 'nowhere',
    })
    const { status, err } = saltTrail('what-if', ...demo, '--patch', broken)
    expect(status).toBe(2)
    expect(err).toMatch(/subnets\/ticketing-app-1: .*nowhere/)
    const misspelt = patch('misspelt.json', {
      op: 'add',
      path: '/nats/nat-ticketing/state',
      value: 'dwn',
    })
    expect(saltTrail('what-if', ...demo, '--patch', misspelt).err).toContain('down')
  })
})
