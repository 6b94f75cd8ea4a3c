import {
  familyOfCode,
  isRefusal,
  trace,
  type Finding,
  type Model,
  type Question,
  type Trace,
} from '../../src/index'
import type { Random } from '../random/random'

/** Losses for these causes are answers that somebody meant (design part 4.1, law 1). */
const MEANT: ReadonlySet<string> = new Set([
  'no-route',
  'drop-route',
  'private-destination',
  'site-does-not-have-it',
  'no-listener',
  'interface-not-up',
])

/** A question whose packet is lost though nobody says that it is meant to be. */
export interface Lost {
  readonly question: Question
  /** The cause with its direction, as `no-route back`. */
  readonly cause: string
  readonly object: string
  /** Whether a finding of a leak or blackhole names the cause's object, or where it was lost. */
  readonly isTold: boolean
}

const PORTS = [22, 80, 443, 8443, 5432, 53]

/** The ends that exist: addresses and names may be of nobody. */
const isThere = (end: string): boolean =>
  end === 'internet' || /^(interface|subnet|frontend|site|party|service):/.test(end)

/** A question at random between two ends of an estate that exist. */
export const randomQuestion = (r: Random, ends: readonly string[]): Question => ({
  from: r.pick(ends.filter(isThere)),
  to: r.pick(ends.filter(isThere)),
  protocol: r.pick(['tcp', 'tcp', 'udp']),
  port: r.pick(PORTS),
})

/** The loss of a question that a finding has to tell; null where there is none. */
export function lossOf(model: Model, named: ReadonlySet<string>, question: Question): Lost | null {
  // What a site sends to itself is no traffic of the estate.
  if (question.from === question.to) return null
  const answer = trace(model, question, { evidence: false })
  if (isRefusal(answer)) return null
  const { verdict, cause } = answer
  if (cause === null || verdict === 'works' || verdict === 'blocked') return null
  if (verdict === 'blackholed' && (MEANT.has(cause.code) || hasNoAddress(question, cause.code)))
    return null
  const isTold = [cause.object, ...placesOf(model, answer)].some((ref) => named.has(ref))
  const direction = cause.direction === 'return' ? 'back' : 'there'
  return { question, cause: `${cause.code} ${direction}`, object: cause.object, isTold }
}

/** From outside, a host without a public address has none that could be asked for. */
const hasNoAddress = ({ from }: Question, code: string): boolean =>
  code === 'no-public-address' && /^(internet|site:|party:|service:)/.test(from)

/** Every object that a finding of a leak or a blackhole names. */
export const namedBy = (findings: readonly Finding[]): ReadonlySet<string> =>
  new Set(
    findings
      .filter(({ code }) => familyOfCode(code) !== 'weak')
      .flatMap(({ anchor, objects }) => [anchor, ...objects]),
  )

/** The subnets at which a packet was lost: that of the station that failed, or the last before it. */
function placesOf(model: Model, { cause, forward, return: back }: Trace): readonly string[] {
  const stations = cause!.direction === 'return' ? (back?.stations ?? []) : forward.stations
  const until = stations.slice(0, cause!.station + 1)
  const subnets = until.flatMap(({ at }) => subnetOf(model, at) ?? [])
  return subnets.slice(-1)
}

function subnetOf(model: Model, ref: string): string | null {
  if (ref.startsWith('subnets/')) return ref
  const index = ref.startsWith('interfaces/')
    ? model.index.interfaces.get(ref.slice('interfaces/'.length))
    : undefined
  return index === undefined ? null : (model.subnets[model.interfaces[index]!.subnet]?.ref ?? null)
}
