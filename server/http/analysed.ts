import type { H3Event } from 'h3'
import { findAnalysis } from '../analysis/results'
import { AnalysisEnded } from '../analysis/ended'
import { engine } from '../engine'
import { analysed } from '../analysis/runs'
import type { Database } from '../database/client'
import { refusal } from './respond'
import { revisionOf } from './revision'

/**
 * A revision that is analysed: a request that comes earlier waits for it, and shares the one run.
 */
export async function analysedRevision(
  event: H3Event,
): Promise<{ db: Database; id: number; number: number; milliseconds: number }> {
  const { db, id, number } = await revisionOf(event)
  await analysedOrRefused(db, id)
  const found = await findAnalysis(db, id, engine())
  if (!found)
    throw refusal(503, 'analysis-failed', 'the analysis of this revision is gone; ask again')
  return { db, id, number, milliseconds: found.milliseconds }
}

/** Waits for the analysis of a revision; one that was stopped or failed is a refusal. */
export async function analysedOrRefused(db: Database, id: number): Promise<void> {
  try {
    await analysed(db, id)
  } catch (error) {
    if (error instanceof AnalysisEnded) throw refusal(503, `analysis-${error.state}`, error.message)
    throw error
  }
}

/** An answer of JSON texts as they are kept, so that nothing is read only to be written again. */
export function sendList(
  event: H3Event,
  about: Record<string, unknown>,
  name: string,
  texts: readonly string[],
): string {
  event.node.res.setHeader('content-type', 'application/json')
  return `${JSON.stringify(about).slice(0, -1)},${JSON.stringify(name)}:[${texts.join(',')}]}`
}
