import {
  compile,
  familyOfCode,
  findAll,
  isRefusal,
  trace,
  type Finding,
  type FindingCode,
  type Model,
  type Trace,
} from '../../src/index'
import type { Branch } from '../../src/trace/branch'
import { PASSED_KINDS } from '../../src/walk/retrace'
import { generateShape, SHAPES, type ShapeName } from '../../../scripts/generator/shapes'
import { randomEstate } from '../random/estate'
import { estateOfJson } from '../random/read'
import { runs } from '../random/runs'

/** What a branch of a trace must show for a finding of each code. */
type Shows = (branch: Branch, finding: Finding, trace: Trace) => boolean

const isDelivered: Shows = ({ forward }) => forward.outcome === 'delivered'
const works: Shows = ({ verdict }) => verdict === 'works'
const code = ({ cause }: Branch): string => cause?.code ?? ''
const isLost: Shows = (branch) => isLostThere(branch, 'blackholed') || isLostThere(branch, 'looped')
const isLostThere = ({ forward }: Branch, outcome: string): boolean => forward.outcome === outcome
const isLostFor =
  (...codes: string[]): Shows =>
  (branch) =>
    codes.includes(code(branch)) || codes.includes(branch.cause?.inner?.code ?? '')
const isUnanswered: Shows = (branch, finding, all) =>
  branch.verdict === 'one-way' && isDelivered(branch, finding, all)
const passes = (way: readonly string[], section: string): boolean =>
  way.some((ref) => ref.startsWith(`${section}/`))
const wayBack = ({ return: lane }: Branch): string[] =>
  (lane?.stations ?? []).filter(({ kind }) => PASSED_KINDS.has(kind)).map(({ at }) => at)

const SHOWN: Partial<Record<FindingCode, Shows>> = {
  'leak-direct': (branch, ...rest) =>
    isDelivered(branch, ...rest) && !passes(branch.way, 'nats') && !passes(branch.way, 'firewalls'),
  'leak-round-firewall': (branch, { objects }) =>
    !objects.some((ref) => ref.startsWith('firewalls/') && branch.way.includes(ref)),
  'leak-ipv6': (branch, ...rest) =>
    isDelivered(branch, ...rest) && branch.forward.stations[0]!.packet.src.includes(':'),
  'leak-one-way-inspected': (branch) =>
    passes(branch.way, 'firewalls') !== passes(wayBack(branch), 'firewalls'),
  'leak-service-by-internet': (branch, ...rest) =>
    isDelivered(branch, ...rest) && !passes(branch.way, 'endpoints'),
  'leak-name-public': (_, { evidence }, { name }) =>
    evidence.ranges.some((address) => name!.addresses.includes(address)),
  'leak-learned-route': ({ forward }) =>
    forward.stations.some(({ kind, decision }) => kind === 'lookup' && /learned/.test(decision)),
  'leak-segment': isDelivered,
  'open-to-internet': works,
  'in-round-firewall': (branch, ...rest) =>
    isDelivered(branch, ...rest) && !passes(branch.way, 'firewalls'),
  'hole-dead-target': ({ verdict }) => verdict !== 'works',
  'hole-next-hop': isLost,
  'hole-no-way-out': isLost,
  'hole-no-public-address': isLostFor('no-public-address'),
  'hole-nat-without-way-out': isLostFor('nat-without-way-out'),
  'hole-nat-out-of-reach': (branch, ...rest) =>
    isLost(branch, ...rest) && code(branch).startsWith('nat-'),
  'hole-not-transitive': isLostFor('peering-not-transitive'),
  'hole-forwarded-refused': isLostFor('forwarded-refused'),
  'hole-no-way-back': isUnanswered,
  'hole-no-state': isLostFor('no-state', 'return-bypasses-firewall'),
  'hole-ephemeral': (branch, ...rest) =>
    isUnanswered(branch, ...rest) && code(branch).startsWith('denied-'),
  'hole-loop': isLostFor('looped'),
  'hole-overlap': () => true,
  'hole-no-door': isLostFor('no-internet-gateway', 'gateway-outbound-only'),
  'hole-not-announced': isLost,
  'hole-rules-without-route': isLost,
  'hole-route-without-rules': (branch) => code(branch).startsWith('denied-'),
}

/** The findings of leaks and blackholes whose packet does not show what they say. */
function madeUp(model: Model): string[] {
  return findAll(model)!.findings.flatMap((finding) => {
    const { question } = finding.evidence
    if (familyOfCode(finding.code) === 'weak') return []
    // What no packet comes to says so itself. An address that nobody is known to have is one that
    // answers, as far as a trace can tell (design part 3.4).
    if (question === null && /which (nobody has|is deleted)/.test(finding.sentence)) return []
    if (question === null)
      return /[Nn]othing is sent (to it|there) now/.test(finding.sentence)
        ? []
        : [told(finding, 'no packet')]
    const answer = trace(model, question)
    if (isRefusal(answer)) return [told(finding, answer.message)]
    const branches: readonly Branch[] = answer.branches.length > 0 ? answer.branches : [answer]
    const shows = SHOWN[finding.code]!
    return branches.some((branch) => shows(branch, finding, answer))
      ? []
      : [told(finding, branches.map((one) => `${one.verdict} ${code(one)}`).join())]
  })
}

const told = ({ code, anchor, sentence, evidence }: Finding, what: string): string =>
  `${code} at ${anchor}: ${sentence} ${JSON.stringify(evidence.question)} is ${what}`

describe('nothing is made up: the packet of a leak or blackhole shows what is said of it', () => {
  const seeds = Array.from({ length: runs(10) }, (_, at) => at + 1)
  test.each(seeds)('in random estate %i', (seed) => {
    expect(madeUp(compile(estateOfJson(randomEstate(seed).estate)))).toEqual([])
  })

  test.each(Object.keys(SHAPES) as ShapeName[])('in the shape %s', (name) => {
    const { estate } = generateShape(name, 40)
    expect(madeUp(compile(estateOfJson(estate as Record<string, unknown>)))).toEqual([])
  })
})
