import { explainCause, verdictText, type Case, type Cases } from '@salt-trail/core'
import { wayElement, wayInOrder } from '~/objects/way-element'

/** The case that is looked at first: of all, the first that fares worst. */
const RANKS: readonly Case['verdict'][] = ['works', 'one-way', 'blocked', 'blackholed', 'looped']
const rankOf = ({ verdict }: Case): number => RANKS.indexOf(verdict)

/** What an address names of the cases: a family and a port; empty texts where it names none. */
export interface CaseNamed {
  readonly family: string
  readonly port: string
}

/** The case that an address names, else the first of the worst. */
export function chosenCase(cases: readonly Case[], { family, port }: CaseNamed): Case | null {
  const number = port === '' ? null : Number(port)
  const named = cases.filter(
    (one) =>
      (family === '' || one.family === Number(family)) &&
      (number === null ||
        (one.ports !== null && one.ports.from <= number && number <= one.ports.to)),
  )
  const among = named.length > 0 ? named : cases
  return among.reduce<Case | null>(
    (worst, one) => (worst === null || rankOf(one) > rankOf(worst) ? one : worst),
    null,
  )
}

const spanText = ({ ports }: Case): string =>
  ports === null ? '' : ports.from === ports.to ? `${ports.from}` : `${ports.from}-${ports.to}`

/** How a case is called beside the others: `IPv6`, `IPv4, ports 8000-8079`. */
export function caseName(one: Case, { cases }: Cases): string {
  const families = new Set(cases.map(({ family }) => family))
  const isCut = cases.some((other) => other.family === one.family && other !== one)
  const span = isCut
    ? `${one.ports?.from === one.ports?.to ? 'port' : 'ports'} ${spanText(one)}`
    : ''
  return [families.size > 1 ? `IPv${one.family}` : '', span].filter(Boolean).join(', ')
}

/** What becomes of a case, in one line: why it fails, or what it passes and is seen as. */
export function caseText({ verdict, cause, way, seenAs }: Case): string {
  if (cause !== null) return `${verdictText(verdict)}. ${explainCause(cause)}`
  const passed = way.length === 0 ? '' : `, by ${wayInOrder(way)}`
  const foreseen = seenAs.filter((one) => one !== 'unpredictable')
  const as = foreseen.length > 0 ? `, seen as ${foreseen.join(' or ')}` : ''
  return `${verdictText(verdict)}${passed}${as}`
}

const firewallsOf = ({ way }: Case): string[] => way.filter((ref) => ref.startsWith('firewalls/'))

/** The firewalls that packets of one family pass and delivered ones of the other do not. */
function goneRound(cases: readonly Case[]): string {
  const delivered = cases.filter(({ verdict }) => verdict === 'works' || verdict === 'one-way')
  const passed = [...new Set(delivered.flatMap(firewallsOf))]
  const said = passed.flatMap((wall) => {
    const round = new Set(
      delivered.filter((one) => !firewallsOf(one).includes(wall)).map(({ family }) => family),
    )
    return round.size === 1 ? [`IPv${[...round][0]} does not pass ${wayElement(wall)}`] : []
  })
  return said.map((one) => `, but ${one}`).join('')
}

/**
 * The verdict over all cases: none may hide that another fares otherwise, as where IPv4 is lost and
 * IPv6 leaves.
 */
export function headlineOf({ cases }: Pick<Cases, 'cases'>): string {
  const verdicts = new Set(cases.map(({ verdict }) => verdict))
  const [first] = cases
  if (first === undefined) return ''
  if (verdicts.size === 1) return `${verdictText(first.verdict)}${goneRound(cases)}`
  const families = [4, 6].flatMap((family) => {
    const own = cases.filter((one) => one.family === family)
    return own.length === 0 ? [] : [{ family, fates: new Set(own.map(({ verdict }) => verdict)) }]
  })
  return families
    .map(({ family, fates }) => {
      const fate = fates.size === 1 ? verdictText([...fates][0]!).toLowerCase() : 'differs by port'
      return families.length > 1 ? `IPv${family}: ${fate}` : 'Differs by port'
    })
    .join(' · ')
}
