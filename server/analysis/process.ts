import { parseArgs } from 'node:util'
import { setTimeout as sleep } from 'node:timers/promises'
import type pg from 'pg'
import {
  analyseShare,
  compile,
  hopMemo,
  joinShares,
  markerOf,
  networkOfFinding,
  rootCauses,
  type HopMemo,
  type Model,
} from '@salt-trail/core'
import { connectionString } from '../database/client'
import { connected, withClient } from '../database/connected'
import { failureMessage, isAway } from '../database/failure'
import { log } from '../log'
import { outlineOf } from '../estates/outline'
import { readRevision } from '../estates/store'
import { engine } from '../engine'
import { config } from '../config'
import { openQueue, type AnalysisJob, type AnalysisQueue, type TakenJob } from './queue'
import { saveAnalysis } from './results'
import {
  beginShare,
  dropShares,
  failShare,
  inTransaction,
  keepShare,
  readFound,
  readRows,
} from './shares'
import { LONG, makeWay } from '../threads/make-way'

makeWay(LONG)

/** Sent to the parent process: which job this process has, or that it has none. */
export type ProcessNews = { readonly took: TakenJob } | { readonly ended: string }

/** How long an idle process waits before it asks again, in milliseconds. */
const PAUSE = 1_000
/** After this many pauses without a database a process ends. */
const MOST_TRIES = 120

/** The model a process works on. Shares of one revision follow one another, so one is enough. */
let held: { readonly revisionId: number; readonly model: Model; readonly memo: HopMemo } | null =
  null

async function modelOf(url: string, revisionId: number): Promise<{ model: Model; memo: HopMemo }> {
  if (held?.revisionId !== revisionId) {
    held = null
    const { estate } = await patiently(() => connected(url, (db) => readRevision(db, revisionId)))
    held = { revisionId, model: compile(estate), memo: hopMemo() }
  }
  return held
}

async function work(url: string, queue: AnalysisQueue, job: AnalysisJob): Promise<void> {
  if (job.engine !== engine())
    throw new Error(
      'a process of another version took this share; stop it, or bring it to the version of the server',
    )
  const { share } = job
  if (share === 'join') return join(url, job)
  if (!(await patiently(() => connected(url, (db) => beginShare(db, job, share.number))))) return
  const { model, memo } = await modelOf(url, job.revisionId)
  const found = analyseShare(model, memo, share, () => false)!
  await patiently(() =>
    withClient(url, (client) => keepShare(client, queue, job, share.number, found)),
  )
}

/** Joins all shares to the results of the analysis, whole or not at all. */
async function join(url: string, job: AnalysisJob): Promise<void> {
  const { model } = await modelOf(url, job.revisionId)
  // The caches of next hops are not needed any more, and are large.
  held = null
  const joined = (client: pg.Client): Promise<void> =>
    inTransaction(client, async (tx) => {
      const { shares, since } = await readFound(tx, job)
      if (shares.length === 0) return
      const { findings, expectations } = joinShares(model, shares)
      const mark = markerOf(model, findings)
      async function* exits(): AsyncGenerator<string[]> {
        for await (const rows of readRows(tx, job))
          yield rows.map((row) => JSON.stringify(mark(row)))
      }
      const made = {
        revisionId: job.revisionId,
        engine: job.engine,
        milliseconds: Date.now() - since.getTime(),
      }
      await saveAnalysis(client, made, {
        outline: outlineOf(model),
        exits: exits(),
        findings,
        rootCauses: rootCauses(model, findings),
        networkOf: (one) => networkOfFinding(model.estate, one),
        expectations,
      })
      await dropShares(tx, job.revisionId)
    })
  await patiently(() => withClient(url, joined))
}

/**
 * Resolves once the message was sent: a process that dies of its next job must have reported which
 * job it took.
 */
const tell = (news: ProcessNews): Promise<void> =>
  new Promise((resolve) => {
    if (process.connected) process.send!(news, () => resolve())
    else resolve()
  })

/**
 * Takes jobs from the queue until there are none, or for ever: as many such processes as there are
 * cores may share it.
 */
async function takeJobs(url: string, untilNone: boolean): Promise<void> {
  const queue = await patiently(() =>
    openQueue({
      connectionString: url,
      keeps: false,
      seconds: config().SALT_TRAIL_ANALYSIS_SECONDS,
    }),
  )
  try {
    for (;;) {
      const job = await patiently(() => queue.take())
      if (!job && untilNone) return
      if (!job) {
        await sleep(PAUSE)
        continue
      }
      await tell({ took: job })
      await work(url, queue, job.data).catch(async (error: unknown) => {
        log.error({ err: error, job: job.data }, 'a share of an analysis failed')
        await patiently(() =>
          connected(url, (db) => failShare(db, job.data, failureMessage(error))),
        )
      })
      await patiently(() => queue.finish(job))
      await tell({ ended: job.id })
    }
  } finally {
    await queue.close()
  }
}

/** Asks a database that may be away for a moment, such as while it is restarted. */
async function patiently<T>(ask: () => Promise<T>): Promise<T> {
  for (let tries = 1; ; tries++) {
    try {
      return await ask()
    } catch (error) {
      if (!isAway(error) || tries === MOST_TRIES) throw error
      await sleep(PAUSE)
    }
  }
}

const { values } = parseArgs({ options: { 'until-none': { type: 'boolean', default: false } } })
await takeJobs(connectionString(), values['until-none'])
process.exit(0)
