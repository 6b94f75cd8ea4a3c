import type { Database } from '../database/client'
import { countAnalysis, type Counts } from './results'
import { stateOf, type AnalysisState } from './runs'

/** The state of a revision's analysis as the API tells it; with what was found once it is done. */
export type AnalysisStatus = { readonly revision: number } & AnalysisState & {
    readonly counts?: Counts
  }

export async function statusOf(
  db: Database,
  id: number,
  revision: number,
): Promise<AnalysisStatus> {
  const state = await stateOf(db, id)
  return {
    revision,
    ...state,
    ...(state.state === 'done' ? { counts: await countAnalysis(db, id) } : {}),
  }
}
