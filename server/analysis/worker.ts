import type { MessagePort } from 'node:worker_threads'
import {
  analyse,
  compile,
  networkOfFinding,
  rootCauses,
  type AnalysisListener,
  type Finding,
} from '@salt-trail/core'
import { outlineOf } from '../estates/outline'
import { connected, withClient } from '../database/connected'
import { readRevision } from '../estates/store'
import type { Progress } from './progress'
import { saveAnalysis, type AnalysisRows } from './results'
import { inTransaction } from './shares'
import { LONG, makeWay } from '../threads/make-way'

makeWay(LONG)

export interface AnalysisTask {
  readonly revisionId: number
  readonly engine: string
  readonly databaseUrl: string
  /** Told how far it is, as `Progress`. */
  readonly port: MessagePort
}

/**
 * The entry of a worker thread: reads a revision, computes everything of it, and saves that whole,
 * by a connection of its own; the server's thread stays free. Ended in the middle, nothing is
 * saved.
 */
export default async function analyseRevision({
  revisionId,
  engine,
  databaseUrl,
  port,
}: AnalysisTask): Promise<void> {
  try {
    const start = performance.now()
    const tell = (progress: Progress): void => port.postMessage(progress)
    tell({ about: 'reading', done: 0, of: 1 })
    const { estate } = await connected(databaseUrl, (db) => readRevision(db, revisionId))
    const model = compile(estate)
    let rows: AnalysisRows | undefined
    let exits: string[] = []
    const listener: AnalysisListener = {
      // Nothing is returned on purpose: true would end the analysis, and that is what posting
      // returns.
      progress: (about, done, of) => {
        tell({ about, done, of })
      },
      exits: (of) => (exits = of.map((row) => JSON.stringify(row))),
      findings: (findings, expectations) => {
        const networkOf = (one: Finding): string | null => networkOfFinding(model.estate, one)
        rows = {
          outline: outlineOf(model),
          exits: [exits],
          findings,
          rootCauses: rootCauses(model, findings),
          networkOf,
          expectations,
        }
      },
    }
    if (!analyse(model, listener)) throw new Error('the analysis was ended before its end')
    tell({ about: 'saving', done: 1, of: 1 })
    const made = { revisionId, engine, milliseconds: Math.round(performance.now() - start) }
    await withClient(databaseUrl, (client) =>
      inTransaction(client, () => saveAnalysis(client, made, rows!)),
    )
  } finally {
    port.close()
  }
}
