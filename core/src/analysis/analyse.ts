import { exitsOf, type ExitRow } from '../exits/exits'
import type { ExpectationResult } from '../expectations/expectations'
import type { Finding } from '../findings/finding'
import {
  FINDING_STEPS,
  findShare,
  joinShares,
  shareOf,
  type FoundShare,
  type Share,
} from '../findings/findings'
import { hopMemo, releasePerNetworkCaches, type HopMemo } from '../hops/hops'
import { markerOf, type MarkedRow } from './marks'
import type { Model } from '../model/model'

/** Receives the results of an analysis, piece by piece as they are computed. */
export interface AnalysisListener {
  /** The current step, and how many of all steps are done. Returning true ends the analysis. */
  readonly progress: (about: string, done: number, of: number) => unknown
  /** Every row of the matrix, in the order of the estate. */
  readonly exits: (rows: readonly MarkedRow[]) => void
  readonly findings: (
    findings: readonly Finding[],
    expectations: readonly ExpectationResult[],
  ) => void
}

/** The number of rows in one step of the progress. */
const ROWS_AT_ONCE = 500

const stepsOf = (subnets: number): number => Math.ceil(subnets / ROWS_AT_ONCE) + FINDING_STEPS

/** The results of one share of an analysis, before shares are joined. */
export interface AnalysisShare extends FoundShare {
  readonly rows: readonly ExitRow[]
}

/**
 * Everything that is computed of an estate as a whole: the ways out of all subnets, the findings
 * and the expectations. Runs the same on the server and in a browser. Returns false where it was
 * ended.
 */
export function analyse(model: Model, listener: AnalysisListener): boolean {
  const whole = analyseShare(model, hopMemo(), { number: 0, of: 1 }, listener.progress)
  if (whole === null) return false
  const { findings, expectations } = joinShares(model, [whole])
  listener.exits(whole.rows.map(markerOf(model, findings)))
  listener.findings(findings, expectations)
  const of = stepsOf(whole.rows.length)
  listener.progress('done', of, of)
  return true
}

/**
 * A share of the same, for several processes that analyse an estate together: shares of the
 * subnets, of every check's subjects and of the expectations, so that what is found is in one share
 * once, or in several and joined (`joinShares`, then `markerOf`). The shares of one process may
 * have one memo. Null where it was ended.
 */
export function analyseShare(
  model: Model,
  memo: HopMemo,
  share: Share,
  progress: AnalysisListener['progress'],
): AnalysisShare | null {
  const subnets = shareOf([...model.index.subnets.values()], share)
  const of = stepsOf(subnets.length)
  const pieces = of - FINDING_STEPS
  const rows: ExitRow[] = []
  for (let piece = 0; piece < pieces; piece++) {
    if (progress('ways out', piece, of) === true) return null
    for (const index of subnets.slice(piece * ROWS_AT_ONCE, (piece + 1) * ROWS_AT_ONCE))
      rows.push(exitsOf(model, model.subnets[index]!, memo))
  }
  const found = findShare(model, memo, share, (about, done) => progress(about, pieces + done, of))
  releasePerNetworkCaches(memo)
  return found && { rows, ...found }
}
