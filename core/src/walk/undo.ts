import { formatAddress } from '../address/address'
import type { NetworkModel } from '../model/model'
import { oneToOneOf } from './one-to-one'
import { isPublicHere, noteForPublic, isValue, noteFor, sameField } from './scope'
import { changed, finish, lose, type Said } from './next-state'
import type { State, Step, WalkContext } from './state'

/** The answer's packet with the flow's latest translation undone. */
export function undoLatest(state: State): State {
  const [latest, ...rest] = state.toUndo
  if (!latest) return state
  const packet =
    latest.kind === 'source'
      ? { ...state.packet, dst: latest.before }
      : {
          ...state.packet,
          src: latest.before,
          ...(latest.ports ? { srcPort: latest.ports.before } : {}),
        }
  const { address, port } = latest.origin
  const fields =
    latest.kind === 'source'
      ? { ...state.fields, dst: address }
      : { ...state.fields, src: address, ...(latest.ports ? { srcPort: port } : {}) }
  return changed(state, { packet, fields, toUndo: rest })
}

/**
 * An answer is where it belongs: it must come from the address and port that were asked, or the
 * asker does not accept it.
 */
export function arriveAtAsker(context: WalkContext, state: State, at: string): Step {
  const { asker, asked } = context.answers!
  const { src, srcPort } = state.packet
  const { fields } = state
  const known =
    sameField(context, [src, fields.src], [asked.address, asked.addressField]) &&
    sameField(context, [srcPort, fields.srcPort], [asked.port, asked.portField])
  if (!known) return lose(context, state, 'answer-from-other-address', at)
  return [finish(state, asker)]
}

/**
 * An answer leaves by a door: a private source must become the public address its flow was sent
 * to. An answer is translated only by undoing what its flow did (design part 3.3).
 */
export function undoAtDoor(
  context: WalkContext,
  state: State,
  network: NetworkModel,
  door: string,
  then: (state: State, decision: Said) => Step,
): Step {
  const latest = state.toUndo[0]
  const { src } = state.packet
  if (
    latest?.kind === 'destination' &&
    latest.by === oneToOneOf(network) &&
    isValue(src, latest.after, noteFor(context, state, 'src'))
  ) {
    const undone = undoLatest(state)
    return then(
      undone,
      () => `${formatAddress(src)} becomes ${formatAddress(undone.packet.src)} again`,
    )
  }
  if (latest?.kind === 'destination' || !isPublicHere(src, noteForPublic(context, state, 'src'))) {
    const seen = then(
      state,
      `${formatAddress(src)} was not the address asked, and nothing here turns it back`,
    )
    const last = seen[0]
    if (!last || 'outcome' in last) return seen
    const expected = state.toUndo.find((t) => t.kind === 'destination')
    return lose(context, last, 'answer-from-other-address', door, {
      what: expected
        ? `the answer comes from ${formatAddress(expected.before)}`
        : 'the answer has a public address',
      then: (s) =>
        then(
          expected
            ? changed(s, {
                packet: { ...s.packet, src: expected.before },
                toUndo: s.toUndo.filter((t) => t !== expected),
              })
            : s,
          '',
        ),
    })
  }
  return then(state, 'the source is public already and passes')
}
