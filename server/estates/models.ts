import { LRUCache } from 'lru-cache'
import { compile, exitsOf, findAll, hopMemo, type ExitRow, type Findings, type HopMemo, type Model } from '@salt-trail/core'
import type { Database } from '../database/client'
import { readRevision } from './store'

/** What was computed of a revision, kept while it is in use. Revisions never change, so neither does this. */
export interface Analysis {
  readonly model: Model
  readonly memo: HopMemo
  readonly exits: () => ExitAnalysis
  readonly findings: () => FindingsAnalysis
}

export interface ExitAnalysis {
  readonly rows: readonly ExitRow[]
  readonly milliseconds: number
}

export interface FindingsAnalysis extends Findings {
  readonly milliseconds: number
}

const analyses = new LRUCache<number, Promise<Analysis>>({ max: 8 })

/** The compiled estate of a revision. Requests for the same revision share one reading of it. */
export function analysisOf(db: Database, revisionId: number): Promise<Analysis> {
  const known = analyses.get(revisionId)
  if (known) return known
  const made = readRevision(db, revisionId).then((estate): Analysis => {
    const model = compile(estate)
    const memo = hopMemo()
    let exits: ExitAnalysis | undefined
    let findings: FindingsAnalysis | undefined
    return { model, memo, exits: () => (exits ??= computeExits(model, memo)), findings: () => (findings ??= computeFindings(model, memo)) }
  })
  // A failure is not kept: the database may be back for the next request.
  made.catch(() => analyses.delete(revisionId))
  analyses.set(revisionId, made)
  return made
}

/** Findings of a larger estate take minutes of a whole core; they would keep everybody else waiting. */
export const MOST_SUBNETS_FOR_FINDINGS = 500

function computeFindings(model: Model, memo: HopMemo): FindingsAnalysis {
  const start = performance.now()
  const found = findAll(model, memo)!
  return { ...found, milliseconds: performance.now() - start }
}

function computeExits(model: Model, memo: HopMemo): ExitAnalysis {
  const start = performance.now()
  const rows = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id)).map((subnet) => exitsOf(model, subnet, memo))
  return { rows, milliseconds: performance.now() - start }
}
