import { consequencesOf, stateOf, type ConsequencesJson } from '../consequences/consequences'
import type { Operation } from '../changes/operation'
import { complete } from '../changes/complete'
import type { Blank } from '../mend/mend'
import { tellPackets, type ToldPackets } from '../consequences/told'
import { hopMemo } from '../hops/hops'
import { isRefusal, type Question } from '../trace/question'
import { trace, type Trace } from '../trace/trace'
import type { Prover } from './prover'
import type { Proposal } from './propose'

/** A proposal as programs read it (design part 9.5). */
export interface ProposalJson {
  readonly what: string
  /** Operations of RFC 6902 that apply as they stand, missing sections added first. */
  readonly changes: readonly Operation[]
  readonly reaches: true
  readonly harmless: boolean
  /** What it costs, in its own words; empty for a harmless one. */
  readonly costs: readonly string[]
  readonly blanks: readonly Blank[]
  readonly consequences: ConsequencesJson
}

/** A proposal with everything it brings about. Costs the consequences once more, in full. */
export function proposalJson(prover: Prover, proposal: Proposal): ProposalJson {
  const { what, changes, harmless, harms, blanks = [], after, all, ways } = proposal
  const { rows: _, ...consequences } = consequencesOf(
    stateOf(prover.model, prover, prover.memo, prover.ways),
    stateOf(after, all, hopMemo(), ways),
  )
  return {
    what,
    changes: complete(prover.model.estate, changes),
    reaches: true,
    harmless,
    costs: harms.map(({ text }) => text),
    blanks,
    consequences,
  }
}

/** A proposal as a screen shows it: with its consequences as rows in words, and as counts. */
export interface ToldProposal {
  readonly what: string
  readonly changes: readonly Operation[]
  readonly blanks: readonly Blank[]
  readonly harmless: boolean
  /** How many findings of a root cause it is for; null where it is for one finding or question. */
  readonly mends: number | null
  readonly costs: readonly string[]
  /** The trace of the question once it is made; null where none shows what it is for. */
  readonly shown: Trace | null
  readonly packets: ToldPackets
  readonly findings: {
    readonly went: readonly string[]
    readonly came: readonly string[]
  }
}

/** Rows of a kind that a screen shows with a proposal. */
const MOST_ROWS = 12

/** Puts a proposal into the words of a screen. */
export function tellProposal(
  { model }: Prover,
  proposal: Proposal,
  question: Question | null,
): ToldProposal {
  const { what, changes, blanks = [], harmless, harms, rows, leftOut, findings, after } = proposal
  const { mends = null } = proposal
  const shown = question && trace(after, question)
  return {
    what,
    changes: complete(model.estate, changes),
    blanks,
    harmless,
    mends,
    costs: harms.slice(0, MOST_ROWS).map(({ text }) => text),
    shown: shown === null || isRefusal(shown) ? null : shown,
    packets: tellPackets({ before: model, after }, { rows, leftOut }, MOST_ROWS),
    findings: {
      went: findings.went.map(({ code, anchor }) => `${code} at ${anchor}`),
      came: findings.came.map(({ sentence }) => sentence),
    },
  }
}
