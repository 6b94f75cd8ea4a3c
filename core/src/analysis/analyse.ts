import { exitsOf, type ExitRow } from '../exits/exits'
import type { ExpectationResult } from '../expectations/expectations'
import type { Finding } from '../findings/finding'
import { CHECKS, findAll } from '../findings/findings'
import { hopMemo } from '../hops/hops'
import { markRows, type MarkedRow } from './marks'
import type { Model } from '../model/model'

/** Who is told what an analysis finds, piece by piece as it is found. */
export interface AnalysisListener {
  /** What is looked at now, and how many of all steps are done. Returning true ends the analysis. */
  readonly progress: (about: string, done: number, of: number) => unknown
  /** Every row of the matrix, in the order of the estate. */
  readonly exits: (rows: readonly MarkedRow[]) => void
  readonly findings: (findings: readonly Finding[], expectations: readonly ExpectationResult[]) => void
}

/** So many rows are one step of the progress. */
const ROWS_AT_ONCE = 500

/**
 * Everything that is computed of an estate as a whole: the ways out of all subnets, the findings and
 * the expectations. Runs the same on the server and in a browser. Returns false where it was ended.
 */
export function analyse(model: Model, listener: AnalysisListener): boolean {
  const subnets = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id))
  const memo = hopMemo()
  const pieces = Math.ceil(subnets.length / ROWS_AT_ONCE)
  const rows: ExitRow[] = []
  const of = pieces + CHECKS.length + 1
  for (let piece = 0; piece < pieces; piece++) {
    if (listener.progress('ways out', piece, of) === true) return false
    rows.push(...subnets.slice(piece * ROWS_AT_ONCE, (piece + 1) * ROWS_AT_ONCE).map((subnet) => exitsOf(model, subnet, memo)))
  }
  const found = findAll(model, memo, (about, done) => listener.progress(about, pieces + done, of))
  if (found === null) return false
  listener.exits(markRows(model, rows, found.findings))
  listener.findings(found.findings, found.expectations)
  listener.progress('done', of, of)
  return true
}
