import { askBoundary, askRules, type AskedLevel, type Verdict } from '../rules/ask'
import { placeKey, samePlace, type Place } from '../rules/place'
import type { Direction } from '../rules/condition'
import { rulesEvidence } from '../rules/words'
import { noteAll } from './scope'
import { changed, arrive, lose } from './next-state'
import type { AskedAt, State, Step, WalkContext } from './state'

/**
 * Asks all rules of a host's side and records the station. Goes on with `then`, or
 * ends the walk where a level denied.
 */
export function askHost(
  context: WalkContext,
  state: State,
  direction: Direction,
  place: Place,
  crosses: boolean,
  then: (state: State) => Step,
): Step {
  if (context.about === 'routes') return then(state)
  if (context.ignoresRules) return then(changed(state, { passed: [...state.passed, place] }))
  const same = (known: Place): boolean => samePlace(known, place)
  context.noteAsked?.(placeKey(place))
  // At an interface the flow did not pass before, the answer is asked as a new flow.
  const answers = context.answers?.passed.some(same) ?? false
  const at = placeRef(context.model, place)
  const asked: AskedAt = {
    of: 'host',
    ...{ place, direction, crosses, answers, fields: state.fields },
  }
  if (context.defersRules) {
    const noted = arrive(context, state, { at, kind: 'rules', decision: 'asked later', asked })
    return then(changed(noted, { passed: [...noted.passed, place] }))
  }
  const flowAllowedByEstate = context.answers?.allowedByEstate.some(same) ?? false
  const verdict = askRules(context.model, {
    direction,
    place,
    packet: state.packet,
    crosses,
    answers,
    flowAllowedByEstate,
    note: noteAll(context, state),
    brief: !context.evidence,
  })
  const arrived = arrive(context, state, {
    at,
    kind: 'rules',
    decision: () => sentence(verdict, direction),
    evidence: () => rulesEvidence(context.model, verdict, direction),
    asked,
  })
  const after = changed(arrived, {
    passed: [...arrived.passed, place],
    allowedByEstate:
      verdict.finalAllow && context.answers === null
        ? [...arrived.allowedByEstate, place]
        : arrived.allowedByEstate,
  })
  return conclude(context, after, verdict, then)
}

/** What stands at a place: an interface, a frontend, else the subnet. */
function placeRef(model: WalkContext['model'], place: Place): string {
  if (place.frontend !== undefined) return model.frontends[place.frontend]!.ref
  return place.interface >= 0
    ? model.interfaces[place.interface]!.ref
    : model.subnets[place.subnet]!.ref
}

/** Asks a subnet's boundary alone, for what passes its edge without being a host there. */
export function askEdge(
  context: WalkContext,
  state: State,
  direction: Direction,
  subnet: number,
  then: (state: State) => Step,
): Step {
  if (
    context.about === 'routes' ||
    context.ignoresRules ||
    (context.model.subnets[subnet]?.boundary ?? -1) < 0
  )
    return then(state)
  const at = context.model.subnets[subnet]!.ref
  const answers = context.answers !== null
  const asked: AskedAt = { of: 'edge', ...{ subnet, direction, answers, fields: state.fields } }
  if (context.defersRules)
    return then(arrive(context, state, { at, kind: 'rules', decision: 'asked later', asked }))
  const verdict = askBoundary(context.model, subnet, {
    direction,
    packet: state.packet,
    answers,
    note: noteAll(context, state),
    brief: !context.evidence,
  })
  const arrived = arrive(context, state, {
    at,
    kind: 'rules',
    decision: () => sentence(verdict, direction),
    evidence: () => rulesEvidence(context.model, verdict, direction),
    asked,
  })
  return conclude(context, arrived, verdict, then)
}

function conclude(
  context: WalkContext,
  state: State,
  verdict: Verdict,
  then: (state: State) => Step,
): Step {
  if (!verdict.denied) return then(state)
  const { code, object } = verdict.denied
  return lose(context, state, code, object, { what: `${nameOf(object)} allows the packet`, then })
}

const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** What the rules said, in a few words: the level that decided, its set and rule. */
function sentence(verdict: Verdict, direction: Direction): string {
  const way = direction === 'out' ? 'out' : 'in'
  if (verdict.levels.length === 0) return `no rules ask on the way ${way}`
  const failed = verdict.denied
    ? verdict.levels.find(
        (level) => !level.passes && level.sets.some((s) => s.set === verdict.denied!.object),
      )
    : undefined
  if (failed) return `${levelText(failed)}, ${way}`
  if (verdict.finalAllow)
    return `${nameOf(verdict.levels.find((l) => l.level === 'estate')?.sets[0]?.set ?? '')} of the estate rules allows it finally, ${way}`
  // Estate rules that leave it to others are worth a word only where there are no others.
  const passing = verdict.levels.filter((level) => level.passes)
  const deciding = passing.filter((level) => level.level !== 'estate')
  return `${(deciding.length > 0 ? deciding : passing).map(levelText).join('; ')}, ${way}`
}

function levelText(level: AskedLevel): string {
  const set = level.passes ? (level.sets.find((s) => s.passes) ?? level.sets[0]!) : level.sets[0]!
  if (level.level === 'estate')
    return set.decidedBy === null
      ? 'no estate rule matches'
      : `estate rule ${nameOf(set.set)} ${level.passes ? 'lets lower levels decide' : 'denies'}`
  const what = `${level.level === 'interface' ? '' : `${level.level} `}${nameOf(set.set)}`
  if (set.byState) return `${what} knows the flow`
  const by =
    set.decidedBy === null
      ? set.passes
        ? 'otherwise'
        : 'no rule matches'
      : `rule ${orderOf(set, set.decidedBy)}`
  return set.passes ? `${what} allows (${by})` : `${what} denies (${by})`
}

const orderOf = (set: AskedLevel['sets'][number], entry: number): number => {
  const rule = set.rules.find((r) => r.entry === entry)
  return rule?.order ?? entry + 1
}
