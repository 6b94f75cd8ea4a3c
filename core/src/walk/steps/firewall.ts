import { familyOf, formatAddress, parseAddress, type Address } from '../../address/address'
import type { Firewall } from '../../format/estate'
import type { FirewallModel, FirewallSide, Model } from '../../model/model'
import { protocolNumber, TCP, type Packet } from '../../packet/packet'
import { askPolicy, type PolicyVerdict } from '../../rules/policy'
import { changed, arrive, lose, type Said } from '../next-state'
import type { AskedAt, Sides, State, Step, Translation, WalkContext } from '../state'
import { knowsFlow, meetFirewall } from '../flow-state'
import {
  inPrefixes,
  isValue,
  longestHere,
  noteAll,
  noteFor,
  type Note,
  type NoteField,
} from '../scope'
import { portMatches, protocolMatches } from '../../rules/condition'
import { undoLatest } from '../undo'

type RoutedSource = Extract<Firewall, { style: 'routed' }>

/**
 * A packet that came in at an interface of a routed firewall, past that interface's rules:
 * destination translation, own routes, policy, source translation, out (design part 3.2).
 */
export function passFirewall(context: WalkContext, given: State, side: FirewallSide): Step {
  const { model } = context
  const firewall = model.firewalls[side.firewall]!
  if (!firewall.up)
    return lose(
      context,
      arrive(context, given, { at: firewall.ref, kind: 'firewall', decision: 'it is not up' }),
      'target-not-up',
      firewall.ref,
    )
  const known = knowsFlow(context, given, firewall, null)
  // The answer of a flow it passed has what it did undone: first the source it gave, then the
  // destination.
  const undoneSource = known ? undoBy(given, firewall.ref, 'source') : given
  const state = known ? undoneSource : translateDestination(context, given, firewall, side)
  const { dst } = state.packet
  const out = wayOut(model, firewall, dst, noteFor(context, state, 'dst'))
  const at = (decision: Said, s: State = state): State =>
    arrive(context, s, { at: firewall.ref, kind: 'firewall', decision })
  if (out === null || out === 'drop') {
    const what = out === null ? 'it has no route for' : 'its route drops'
    const here = at(() => `${what} ${formatAddress(dst)}`)
    return lose(context, here, out === null ? 'no-route' : 'drop-route', firewall.ref)
  }
  const sides = { from: side.label, to: out.label }
  if (known) {
    const undone = undoBy(state, firewall.ref, 'destination')
    return goOut(
      context,
      arrive(context, meetFirewall(undone, firewall, null), {
        at: firewall.ref,
        kind: 'firewall',
        decision: () => `knows the flow, ${sides.from} to ${sides.to}`,
      }),
      firewall,
      out,
    )
  }
  const judged = judge(context, state, firewall, { sides, endpoint: null })
  if (judged.lost) return judged.lost((s) => goOut(context, s, firewall, out))
  const translated = translateSource(model, state, firewall, sides, out)
  const seen = becomesText(state.packet.src, translated.packet.src)
  const moved = becomesText(given.packet.dst, dst)
  const passed = arrive(context, translated, {
    at: firewall.ref,
    kind: 'firewall',
    decision: () => `${sides.from} to ${sides.to}, ${policyWords(judged.verdict)}${moved}${seen}`,
    evidence: () => ({ sides, policy: judged.verdict }),
    asked: askedPolicy(firewall, state, sides),
  })
  return goOut(context, meetFirewall(passed, firewall, null), firewall, out)
}

const becomesText = (before: Address, after: Address): string =>
  before === after ? '' : `, ${formatAddress(before)} becomes ${formatAddress(after)}`

/** What a firewall's policy was asked, for an answer that goes back the same way. */
export const askedPolicy = (
  { index }: FirewallModel,
  { packet, fields }: State,
  sides: Sides | null,
): AskedAt => ({
  of: 'policy',
  firewall: index,
  sides,
  packet,
  fields,
})

/** What a policy decided, in words. */
export const policyWords = (verdict: PolicyVerdict): string => {
  const by = verdict.order === null ? 'otherwise' : `policy ${verdict.order}`
  return `${by} ${verdict.passes ? 'allows' : 'denies'}${verdict.application ? ` (that it is ${verdict.application} was not checked)` : ''}`
}

/**
 * Asks a firewall about a packet it does not know. An answer it never saw the flow of is lost over
 * TCP; over another protocol it is asked as a new flow, and has no state if refused.
 */
export function judge(
  context: WalkContext,
  state: State,
  firewall: FirewallModel,
  { sides, endpoint }: { sides: Sides | null; endpoint: string | null },
): { verdict: PolicyVerdict; lost: ((then: (state: State) => Step) => Step) | null } {
  const open = context.about === 'routes' || context.ignoresRules
  const verdict: PolicyVerdict = open
    ? OPEN
    : askPolicy(context.model, firewall, state.packet, sides, noteAll(context, state))
  const strange = context.answers !== null && firewall.stateful
  const noState =
    strange && (protocolMatches(TCP, state.packet, noteAll(context, state)) || !verdict.passes)
  if (!noState && verdict.passes) return { verdict, lost: null }
  const kind = firewall.style === 'inline' ? 'inspect' : 'firewall'
  const decision = noState
    ? 'it never saw this flow begin'
    : `${sides ? `${sides.from} to ${sides.to}, ` : ''}${policyWords(verdict)}`
  const met = meetFirewall(
    arrive(context, state, {
      at: firewall.ref,
      kind,
      decision,
      evidence: () => ({ sides, policy: verdict }),
    }),
    firewall,
    endpoint,
  )
  const code = noState ? 'no-state' : 'denied-policy'
  return {
    verdict,
    lost: (then) =>
      lose(context, met, code, firewall.ref, { what: `${firewall.id} lets it pass`, then }),
  }
}

const OPEN: PolicyVerdict = { passes: true, order: null, application: null, asked: [] }

function undoBy(state: State, ref: string, kind: Translation['kind']): State {
  let undone = state
  while (undone.toUndo[0]?.by === ref && undone.toUndo[0].kind === kind) undone = undoLatest(undone)
  return undone
}

/** Whether a firewall translates a packet sent to its own address, so that it does not keep it. */
export function translatesDestination(
  model: Model,
  side: FirewallSide,
  packet: Packet,
  note?: NoteField,
): boolean {
  return destinationRule(model.firewalls[side.firewall]!, side, packet, note) !== undefined
}

function destinationRule(
  firewall: FirewallModel,
  side: FirewallSide,
  packet: Packet,
  note?: NoteField,
) {
  return (firewall.source as RoutedSource).destinationTranslation?.find(
    (rule) =>
      (rule.at === undefined || rule.at === side.label) &&
      rule.forward.address.includes(':') === (typeof packet.dst === 'bigint') &&
      protocolMatches(
        rule.protocol === undefined || rule.protocol === 'any'
          ? null
          : protocolNumber(rule.protocol),
        packet,
        note,
      ) &&
      portMatches(
        rule.port === undefined ? null : [[rule.port, rule.port]],
        packet,
        'dstPort',
        note,
      ),
  )
}

function translateDestination(
  context: WalkContext,
  state: State,
  firewall: FirewallModel,
  side: FirewallSide,
): State {
  const { packet } = state
  const own = context.model.firewalls[side.firewall]!.interfaces.some(
    (i) =>
      i.label === side.label &&
      context.model.interfaces[i.interface]!.addresses.some((address) =>
        isValue(packet.dst, address, noteFor(context, state, 'dst')),
      ),
  )
  const rule = own ? destinationRule(firewall, side, packet, noteAll(context, state)) : undefined
  if (!rule) return state
  const after = parseAddress(rule.forward.address)!
  const made: Translation = {
    by: firewall.ref,
    kind: 'destination',
    before: packet.dst,
    after,
    ports: { before: packet.dstPort, after: rule.forward.port ?? packet.dstPort },
    origin: { address: state.fields.dst, port: state.fields.dstPort },
  }
  const fields = {
    ...state.fields,
    dst: null,
    ...(rule.forward.port === undefined ? {} : { dstPort: null }),
  }
  return changed(state, {
    packet: { ...packet, dst: after, dstPort: rule.forward.port ?? packet.dstPort },
    fields,
    translations: [...state.translations, made],
  })
}

interface WayOut {
  readonly interface: number
  readonly label: string
  /** The next hop of the route taken; null for a connected subnet, or where all goes one way. */
  readonly hop: Address | null
}

/**
 * The firewall's own route: connected subnets first, then the longest prefix; without routes its
 * only or outside interface.
 */
function wayOut(
  model: Model,
  firewall: FirewallModel,
  dst: Address,
  note: Note | undefined,
): WayOut | 'drop' | null {
  if (firewall.routes === null) {
    const only =
      firewall.interfaces.length === 1
        ? firewall.interfaces[0]
        : firewall.interfaces.find((i) => i.label === 'outside')
    return only ? { ...only, hop: null } : null
  }
  const connected = connectedInterface(model, firewall, dst, note)
  if (connected) return { ...connected, hop: null }
  const hop = longestHere(firewall.routes, dst, note)[0]
  if (hop === undefined) return null
  if (hop === 'drop') return 'drop'
  const out = connectedInterface(model, firewall, hop, undefined)
  return out ? { ...out, hop } : null
}

function connectedInterface(
  model: Model,
  firewall: FirewallModel,
  address: Address,
  note: Note | undefined,
): FirewallModel['interfaces'][number] | undefined {
  const covering = firewall.interfaces.flatMap((one) => {
    const subnet = model.subnets[model.interfaces[one.interface]!.subnet]
    const lengths = (subnet?.allRanges ?? [])
      .filter((range) => inPrefixes([range], address, note))
      .map((range) => range.length)
    return lengths.length > 0 ? [{ one, length: Math.max(...lengths) }] : []
  })
  return covering.reduce<(typeof covering)[number] | undefined>(
    (best, c) => (best === undefined || c.length > best.length ? c : best),
    undefined,
  )?.one
}

function translateSource(
  model: Model,
  state: State,
  firewall: FirewallModel,
  sides: Sides,
  out: WayOut,
): State {
  const rule = (firewall.source as RoutedSource).sourceTranslation?.find(
    (r) =>
      (r.fromSide === undefined || r.fromSide === sides.from) &&
      (r.toSide === undefined || r.toSide === sides.to),
  )
  if (!rule) return state
  const { src } = state.packet
  const own =
    rule.use === 'interface'
      ? model.interfaces[out.interface]!.addresses
      : rule.use.map((text) => parseAddress(text)!)
  const pool = own.filter((address) => familyOf(address) === familyOf(src))
  const after = pool[0]
  if (after === undefined) return state
  const seenAs = (rule.use === 'interface' ? [after] : pool).map(formatAddress)
  const made: Translation = {
    by: firewall.ref,
    kind: 'source',
    before: src,
    after,
    interface: out.interface,
    origin: { address: state.fields.src, port: null },
  }
  return changed(state, {
    packet: { ...state.packet, src: after },
    fields: { ...state.fields, src: null },
    seenAs,
    translations: [...state.translations, made],
  })
}

/**
 * Out by an interface: straight to the next hop if another interface in that subnet has it, else by
 * that subnet's table.
 */
function goOut(context: WalkContext, state: State, firewall: FirewallModel, out: WayOut): Step {
  const { model } = context
  const one = model.interfaces[out.interface]!
  const place = { subnet: one.subnet, interface: one.index }
  if (!one.up) return lose(context, state, 'interface-not-up', one.ref)
  const owner =
    out.hop === null
      ? undefined
      : model.networks[model.subnets[one.subnet]!.network]!.owners.get(out.hop)
  const neighbour =
    owner?.kind === 'interface' &&
    owner.index !== one.index &&
    model.interfaces[owner.index]!.subnet === one.subnet
      ? owner.index
      : null
  return [
    changed(state, {
      next: {
        at: 'send',
        sender: {
          kind: 'appliance',
          place,
          ref: firewall.ref,
          ...(neighbour === null ? {} : { handTo: neighbour }),
        },
      },
    }),
  ]
}
