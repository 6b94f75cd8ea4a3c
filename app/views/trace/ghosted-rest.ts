import type { Branch, StationJson, Trace } from '@salt-trail/core'
import { decidingBranch } from '~/views/trace/deciding-branch'

/**
 * A lost path with what lies beyond its fault as the first proposal makes it: what is ghosted then
 * never contradicts what is proposed. Unchanged where there is no proposal, or where it leads
 * another way before the fault.
 */
export function withGhostedRest(branch: Branch, proposed: Trace | null): Branch {
  const { cause } = branch
  if (cause === null || proposed === null || proposed.verdict !== 'works') return branch
  const shown = decidingBranch(proposed)
  const isForward = cause.direction === 'forward'
  const [own, other] = isForward ? [branch.forward, shown.forward] : [branch.return, shown.return]
  if (!own || !other) return branch
  const before = own.stations.slice(0, cause.station)
  if (before.some(({ at }, index) => other.stations[index]?.at !== at)) return branch
  const lane = {
    ...own,
    stations: [
      ...own.stations.slice(0, cause.station + 1),
      ...other.stations.slice(cause.station + 1).map(ghosted),
    ],
  }
  const back = shown.return && { ...shown.return, stations: shown.return.stations.map(ghosted) }
  return {
    ...branch,
    ...(isForward ? { forward: lane, return: back } : { return: lane }),
    faults: [cause],
  }
}

const ghosted = (station: StationJson): StationJson => ({ ...station, assumed: true })
