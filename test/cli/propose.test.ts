import { z } from 'zod'
import { proposalJson } from '../../contract/proposals'
import { demo, file, once, saltTrail } from './running'

const document = z.strictObject({ proposals: z.array(proposalJson) })

describe('propose', () => {
  const question = ['--from', 'interface:report-1', '--to', 'internet', '--port', '443']

  /** Proposals for the question, as JSON. */
  const asked = once(
    () =>
      document.parse(JSON.parse(saltTrail('propose', ...demo, ...question, '--json').out))
        .proposals,
  )

  test('a faulty question: proposals with what follows, best first; nothing is cut', () => {
    const { status, out } = saltTrail('propose', ...demo, ...question)
    expect(status).toBe(1)
    expect(out).toMatch(/Harmless: route 0\.0\.0\.0\/0 by nat nat-ticketing/)
    expect(out).toContain('cuts 0')
    const proposals = asked()
    expect(proposals[0]).toMatchObject({
      harmless: true,
      costs: [],
      consequences: { cut: [], passedBy: [], complete: true },
    })
    expect(proposals[0]!.consequences.opened.length).toBeGreaterThan(0)
    expect(proposals[0]!.consequences.findings.went.length).toBeGreaterThan(0)
  })

  test('what is proposed can be made: what-if says the same of it', () => {
    const [first] = asked()
    const { out } = saltTrail(
      'what-if',
      ...demo,
      '--json',
      '--patch',
      file('proposal.json', JSON.stringify(first!.changes)),
    )
    expect(JSON.parse(out)).toEqual(JSON.parse(JSON.stringify(first!.consequences)))
  })

  test('a question that works has none', () => {
    const works = ['--from', 'interface:seat-plan-1', '--to', 'internet', '--port', '443']
    expect(saltTrail('propose', ...demo, ...works)).toMatchObject({
      status: 0,
      out: 'It works: there is nothing to mend.\n',
    })
  })

  test.each([
    [['--from', 'interface:report-1'], 'a question needs both --from and --to'],
    [
      ['--from', 'interface:none', '--to', 'internet', '--port', '1'],
      'there is no interface "none"',
    ],
    [['--finding', '0123456789abcdef'], 'there is no finding 0123456789abcdef'],
    [
      ['--finding', 'x', '--from', 'a', '--to', 'b'],
      'propose mends either a finding (--finding) or a question',
    ],
  ])('refuses %j', (flags, why) => {
    expect(saltTrail('propose', ...demo, ...flags)).toMatchObject({
      status: 2,
      err: expect.stringContaining(why) as string,
    })
  })
})
