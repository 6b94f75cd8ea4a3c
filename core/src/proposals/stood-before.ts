import type { Pair } from '../consequences/ends'
import type { Finding, ToldFinding } from '../findings/finding'
import { splitRef } from '../format/ref'
import { lazy } from '../incremental/cells'
import { FINDINGS } from '../findings/records'
import type { Model } from '../model/model'
import type { Question } from '../trace/question'
import { isRefusal } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import type { Purpose } from './purpose'

/**
 * Tells of blackholes that come whether they stood before under another name: their packet was lost
 * in the estate before the change too, by an object that the mended finding or question names. A
 * route that is mended for the internet, say, leaves answers to a peer lost that were lost by the
 * dead route: they are told otherwise, and nothing is lost by the change. Costs a trace for each
 * that is asked about, and one for all.
 */
export function stoodBefore(before: Model, purpose: Purpose): (came: ToldFinding) => boolean {
  const roots = lazy(() => rootsOf(before, purpose))
  return ({ code, evidence: { question } }) => {
    if (FINDINGS[code].family !== 'hole' || question === null) return false
    const answer = faultsOf(before, question)
    if (answer === null || answer.verdict === 'works') return false
    return answer.faults.some(({ object }) => roots().has(object))
  }
}

/** The trace of a question, with what is lost beyond its first fault. */
function faultsOf(model: Model, question: Question): Trace | null {
  const answer = trace(model, { ...question, continue: true }, { evidence: false })
  return isRefusal(answer) ? null : answer
}

/** What the mended finding names as lost at, and what its packet is lost at. */
function rootsOf(model: Model, { finding, question }: Purpose): ReadonlySet<string> {
  const named = finding === null ? [] : [finding.anchor, ...finding.objects]
  const answer = question === null ? null : faultsOf(model, question)
  return new Set([
    ...named.filter((ref) => /^(subnets|routeTables|nats|gateways|transits|firewalls)\//.test(ref)),
    ...(answer?.faults ?? []).map(({ object }) => object),
  ])
}

/**
 * Tells of findings about a table that the change makes whether they stood before of the table that
 * its subnets had: a copy has the faults of its original, and no packet of theirs fares worse by
 * that. `known` are the findings before. Costs a pass over them for each that is asked about.
 */
export function isCopied(
  { before, after }: Pair,
  known: readonly Finding[],
): (came: ToldFinding) => boolean {
  return ({ code, anchor, evidence }) => {
    const [section, id] = splitRef(anchor)
    if (section !== 'routeTables' || before.estate.routeTables.has(id)) return false
    const originals = new Set(
      after.subnets.flatMap((subnet) => {
        if (after.tables[subnet.table]?.ref !== anchor) return []
        const own = before.subnets[before.index.subnets.get(subnet.id) ?? -1]
        return before.tables[own?.table ?? -1]?.ref ?? []
      }),
    )
    const ranges = evidence.ranges.join()
    return known.some(
      (one) =>
        one.code === code && originals.has(one.anchor) && one.evidence.ranges.join() === ranges,
    )
  }
}
