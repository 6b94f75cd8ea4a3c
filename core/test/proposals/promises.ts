import {
  allCandidates,
  apply,
  budgetOf,
  complete,
  compile,
  errorsOf,
  findAll,
  harmOfPackets,
  packetsAmong,
  purposeOfFinding,
  readEstate,
  shareWith,
  stoodBefore,
  trace,
  isRefusal,
  writeJson,
  type Model,
  type Finding,
  type Proposal,
  type Prover,
} from '../../src/index'

import { byOwner } from '../../src/addresses/named-space'
import { addressOf } from '../../src/address/prefix'

/**
 * Everything design part 9.3 asks of a proposal, checked without what the prover is made of: the
 * estate is written and read again, analysed from nothing, and all packets are compared, not only
 * those that the change is thought to reach. Gives what is broken.
 */
export function brokenPromises(prover: Prover, finding: Finding, proposal: Proposal): string[] {
  const { estate } = prover.model
  const made = apply(estate, complete(estate, proposal.changes))
  if (!made.ok) return [`it cannot be made: ${made.failure.message}`]
  const { estate: read, problems } = readEstate([{ name: 'a', text: writeJson(made.estate) }])
  if (!read)
    return errorsOf(problems).map(({ message }) => `it leaves an invalid estate: ${message}`)
  const after = compile(shareWith(estate, read), prover.model)
  const now = findAll(compile(read))!.findings
  const out: string[] = []
  const same = now.find(({ fingerprint }) => fingerprint === finding.fingerprint)
  const isLess =
    same === undefined || JSON.stringify(same.evidence) !== JSON.stringify(finding.evidence)
  if (!isLess) out.push('the finding stands as before')
  if (!proposal.harmless)
    return proposal.harms.length > 0 ? out : [...out, 'it is harmful without saying what it costs']
  const pair = { before: prover.model, after }
  const { rows } = packetsAmong(pair, allCandidates(pair), budgetOf(1_000_000), { forTrial: true })
  const purpose = purposeOfFinding(prover.model, finding)
  const stood = stoodBefore(prover.model, purpose)
  out.push(...harmOfPackets(pair, purpose, proposal, rows).map(({ text }) => text))
  const known = new Map(prover.findings.map((one) => [one.fingerprint, one] as const))
  const severities = ['critical', 'high', 'medium', 'low', 'note']
  for (const one of now) {
    const before = known.get(one.fingerprint)
    const isNew = !before || severities.indexOf(one.severity) < severities.indexOf(before.severity)
    const isGrave = severities.indexOf(one.severity) <= severities.indexOf(finding.severity)
    const isOther = one.fingerprint !== finding.fingerprint
    const isMeant = one.code === 'open-to-internet' && isAskedFor(prover.model, finding, one)
    if (isNew && isGrave && isOther && !stood(one) && !isMeant && !isOfCopy(prover, one))
      out.push(`brings ${one.code}: ${one.sentence}`)
  }
  return out
}

/**
 * Whether a finding says of a new table what was said of another: a copy has its faults, though
 * fewer subnets may send there.
 */
function isOfCopy({ model, findings }: Prover, { code, anchor, sentence }: Finding): boolean {
  const table = anchor.startsWith('routeTables/') ? anchor.slice('routeTables/'.length) : null
  if (table === null || model.estate.routeTables.has(table)) return false
  const said = (text: string): string => text.replace(' Nothing is sent there now.', '')
  return findings.some(
    (one) =>
      one.code === code &&
      said(one.sentence.replace(one.anchor.slice('routeTables/'.length), table)) === said(sentence),
  )
}

/** Whether a host that opens is one that a finding names and the internet asks for. */
function isAskedFor(model: Model, finding: Finding, { anchor }: Finding): boolean {
  const { evidence, objects } = finding
  const answer = evidence.question && trace(model, evidence.question)
  if (answer === null || isRefusal(answer)) return false
  // A party is on the internet, too.
  if (!/^(internet$|parties\/)/.test(answer.forward.stations[0]!.at)) return false
  const subnetOf = (id: string): string | undefined => model.estate.interfaces.get(id)?.subnet
  const own = subnetOf(anchor.slice('interfaces/'.length))
  return [finding.anchor, ...objects].some(
    (ref) => ref === `subnets/${own}` || subnetOf(ref.slice('interfaces/'.length)) === own,
  )
}

/**
 * Whether the estate holds a possible target for what a finding asks for: somebody has the address
 * that its packet is for, a translator's network has an internet gateway, a site has a line into the
 * network or one joined to it, and a private answer can be reached.
 */
export function hasTarget(model: Model, finding: Finding): boolean {
  const { code, anchor, evidence } = finding
  if (code === 'hole-not-announced') return hasLine(model, finding)
  if (code === 'leak-name-public') return isReached(model, finding)
  if (code === 'hole-nat-without-way-out') {
    const own = model.estate.nats.get(anchor.slice('nats/'.length))?.network
    return [...model.estate.gateways.values()].some(
      ({ kind, network, state = 'up' }) => kind === 'internet' && network === own && state === 'up',
    )
  }
  if (evidence.question === null) return true
  const answer = trace(model, evidence.question)
  if (isRefusal(answer)) return false
  const dst = addressOf(answer.forward.stations[0]!.packet.dst)
  return byOwner(model, [{ from: dst, to: dst }]).some(
    ({ owner }) => !/^(private|reserved|plannedRanges)/.test(owner),
  )
}

/** Whether a gateway that is up leads from a site into the network of a finding, or a joined one. */
function hasLine({ estate }: Model, { anchor, objects }: Finding): boolean {
  const site = anchor.slice('sites/'.length)
  const own = objects.flatMap((ref) =>
    ref.startsWith('subnets/') ? (estate.subnets.get(ref.slice('subnets/'.length)) ?? []) : [],
  )
  /** Whether a gateway, or its network, is joined to a network by what is up. */
  const isJoined = (gateway: string, a: string | undefined, b: string): boolean =>
    a === b ||
    [...estate.peerings.values()].some(
      ({ state = 'up', ...one }) =>
        state === 'up' && [one.a.network, one.b.network].every((end) => end === a || end === b),
    ) ||
    [...estate.transits.values()].some(({ attachments = {}, state: of = 'up' }) => {
      const ends = Object.values(attachments).filter(({ state = 'up' }) => state === 'up')
      const begins = ends.some(
        (end) => end.gateway === gateway || (a !== undefined && end.network === a),
      )
      return of === 'up' && begins && ends.some(({ network }) => network === b)
    })
  return [...estate.gateways].some(
    ([id, { kind, site: of, network, state = 'up' }]) =>
      kind === 'private' &&
      of === site &&
      state === 'up' &&
      own.some((subnet) => isJoined(id, network, subnet.network)),
  )
}

/** Whether some host of a network comes to the endpoint that a finding names. */
function isReached(model: Model, { anchor, objects }: Finding): boolean {
  const network = anchor.slice('networks/'.length)
  const by = objects.find((ref) => ref.startsWith('endpoints/'))?.slice('endpoints/'.length)
  const endpoint = model.estate.endpoints.get(by ?? '')
  const ends = endpoint?.style === 'addressed' ? (endpoint.interfaces ?? []) : []
  const senders = model.networks[model.index.networks.get(network)!]!.subnets.flatMap(
    (subnet) => model.subnets[subnet]!.interfaces,
  )
  return ends.some((end) =>
    senders.some((sender) => {
      const from = `interface:${model.interfaces[sender]!.id}`
      const answer = trace(model, { from, to: `interface:${end}`, protocol: 'tcp', port: 443 })
      return !isRefusal(answer) && answer.verdict === 'works'
    }),
  )
}

/** How many findings of leaks and blackholes have a harmless proposal, a harmful one, or none. */
export interface Counts {
  harmless: number
  harmful: number
  none: number
  /** Of those for which the estate holds a possible target, how many have a harmless one. */
  reachable: number
  reached: number
}

export const noCounts = (): Counts => ({
  harmless: 0,
  harmful: 0,
  none: 0,
  reachable: 0,
  reached: 0,
})
