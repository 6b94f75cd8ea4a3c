import type { MessagePort } from 'node:worker_threads'
import { analyse, compile, networkOfFinding, readEstate, type AnalysisListener } from '@salt-trail/core'
import { outlineOf } from '../estates/outline'
import { connected } from '../database/connected'
import { readDocument } from '../estates/store'
import type { Progress } from './progress'
import { saveAnalysis, type AnalysisRows } from './results'

export interface AnalysisTask {
  readonly revisionId: number
  readonly engine: string
  readonly databaseUrl: string
  /** Told how far it is, as `Progress`. */
  readonly port: MessagePort
}

/**
 * The entry of a worker thread: reads a revision, computes everything of it, and saves that whole,
 * by a connection of its own; the server's thread stays free. Ended in the middle, nothing is saved.
 */
export default async function analyseRevision({ revisionId, engine, databaseUrl, port }: AnalysisTask): Promise<void> {
  try {
    const start = performance.now()
    const tell = (progress: Progress): void => port.postMessage(progress)
    tell({ about: 'reading', done: 0, of: 1 })
    const text = await connected(databaseUrl, (db) => readDocument(db, revisionId))
    const { estate, problems } = readEstate([{ name: `revision ${revisionId}`, text }])
    if (!estate) throw new Error(`revision ${revisionId} can no longer be read: ${problems[0]?.message}`)
    const model = compile(estate)
    const rows: AnalysisRows = { outline: outlineOf(model), exits: [], findings: [], expectations: [] }
    const listener: AnalysisListener = {
      // Nothing is returned on purpose: true would end the analysis, and that is what posting returns.
      progress: (about, done, of) => {
        tell({ about, done, of })
      },
      exits: (of) => rows.exits.push(...of.map((row) => JSON.stringify(row))),
      findings: (findings, expectations) => {
        for (const finding of findings) rows.findings.push({ finding, network: networkOfFinding(estate, finding) })
        rows.expectations.push(...expectations)
      },
    }
    if (!analyse(model, listener)) throw new Error('the analysis was ended before its end')
    tell({ about: 'saving', done: 1, of: 1 })
    const made = { revisionId, engine, milliseconds: Math.round(performance.now() - start) }
    await connected(databaseUrl, (db) => saveAnalysis(db, made, rows))
  } finally {
    port.close()
  }
}
