import type { Finding } from '../findings/finding'
import type { Model } from '../model/model'
import { associateSubnets, type AssociateMove } from './associate'
import { carveRange, type CarveMove } from './carve'
import { cleanUp } from './clean-up'
import { byEndpoints, type EndpointsMove } from './endpoints'
import { outageOf } from './fail'
import { fixedSource, type FixedSourceMove } from './fixed-source'
import { joinNetworks, type JoinMove } from './join'
import { listed, moved, notMoved, type Moved, type NotMoved } from './move'
import { putWall, type WallMove } from './wall'
import { wayOut, type WayOutMove } from './way-out'

/** Everything a move needs to know, by its kind. */
export type Move =
  | ({ readonly move: 'way-out' } & WayOutMove)
  | ({ readonly move: 'endpoints' } & EndpointsMove)
  | ({ readonly move: 'wall' } & WallMove)
  | ({ readonly move: 'join' } & JoinMove)
  | ({ readonly move: 'associate' } & AssociateMove)
  | ({ readonly move: 'carve' } & CarveMove)
  | ({ readonly move: 'fixed-source' } & FixedSourceMove)
  | { readonly move: 'clean-up' }
  | { readonly move: 'fail'; readonly failing: readonly string[] }

/**
 * The change of a move in an estate, or why it cannot be made there. What it brings about is found
 * like that of any change. `findings` are those of the estate; only cleaning up needs them,
 * and ends once `stop` says true.
 */
export function moveIn(
  model: Model,
  move: Move,
  findings: readonly Finding[],
  stop?: () => boolean,
): Moved | NotMoved {
  switch (move.move) {
    case 'way-out':
      return wayOut(model, move).made
    case 'endpoints':
      return byEndpoints(model, move)
    case 'wall':
      return putWall(model, move)
    case 'join':
      return joinNetworks(model, move)
    case 'associate':
      return associateSubnets(model, move)
    case 'carve':
      return carveRange(model, move)
    case 'fixed-source':
      return fixedSource(model, move)
    case 'clean-up':
      return cleanUp(model, findings, stop)
    case 'fail': {
      const outage = outageOf(model.estate, move.failing)
      if (!outage.ok) return notMoved(outage.message)
      if (outage.change.length === 0) return notMoved('all of it is down already')
      const { leftOut } = outage
      const spanning = `${listed(leftOut)} ${leftOut.length === 1 ? 'spans' : 'span'} the region`
      const notes = leftOut.length === 0 ? [] : [`${spanning}: left out, since it stays up`]
      return moved(outage.what.replaceAll('zone:', 'zone '), outage.change, notes)
    }
  }
}
