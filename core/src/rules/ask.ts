import type { Model } from '../model/model'
import type { Packet } from '../packet/packet'
import { decidingRule } from './long-list'
import { ruleBook, type SetModel, type SetRule } from './rule-book'
import type { Place } from './place'
import { mismatch, type Direction, type Mismatch, type NoteField } from './condition'

export type Level = 'estate' | 'local' | 'interface' | 'subnet' | 'boundary'

/** One rule that was asked, as evidence. */
export interface AskedRule {
  /** Its place in the set, from 0. */
  readonly entry: number
  readonly order: number | null
  readonly action: 'allow' | 'deny' | 'defer'
  /** The field that did not match the packet; null where the rule matched. */
  readonly mismatch: Mismatch | null
}

/** One rule set that was asked, as evidence. */
export interface AskedSet {
  readonly set: string
  readonly stateful: boolean
  /** Each rule asked, in order, to the one that decided. */
  readonly rules: readonly AskedRule[]
  /** The rule that decided, by its place in the set; null where none matched. */
  readonly decidedBy: number | null
  readonly passes: boolean
  /** True where connection state let the answer pass without asking. */
  readonly byState: boolean
}

export interface AskedLevel {
  readonly level: Level
  readonly passes: boolean
  readonly sets: readonly AskedSet[]
}

/** The verdict of all levels on one side. */
export interface Verdict {
  readonly passes: boolean
  /** The first level that denied, with the object that failed. */
  readonly denied: { readonly code: `denied-${Level}`; readonly object: string } | null
  /** True where an estate rule allowed the packet, which is final. */
  readonly finalAllow: boolean
  readonly levels: readonly AskedLevel[]
}

/** What is asked of a packet at one end. */
export interface Asking {
  readonly direction: Direction
  readonly place: Place
  readonly packet: Packet
  /** The packet crosses the subnet's edge, so its boundary is asked. */
  readonly crosses: boolean
  /** The packet answers a flow these stateful sets let pass. */
  readonly answers: boolean
  /**
   * With `answers`: an estate rule allowed the flow here, so the answer needs no other level
   * either.
   */
  readonly flowAllowedByEstate: boolean
  /** Receives, for each field asked, the span of values with the same verdict. */
  readonly note?: NoteField
  /** Only the verdict is wanted: rules that were asked are not recorded. */
  readonly brief?: boolean
}

const PASSES: Verdict = { passes: true, denied: null, finalAllow: false, levels: [] }

/**
 * Asks every level of rules on one side, in order: out of a host local, estate, interface, subnet,
 * boundary; into a host estate, boundary, subnet, interface, local (design part 3.2).
 */
export function askRules(model: Model, asking: Asking): Verdict {
  const subnet = model.subnets[asking.place.subnet]
  if (!subnet) return PASSES
  const one = asking.place.interface >= 0 ? model.interfaces[asking.place.interface]! : null
  const interfaceSets =
    asking.place.frontend === undefined
      ? (one?.ruleSets ?? [])
      : model.frontends[asking.place.frontend]!.ruleSets
  const levels: AskedLevel[] = []
  const local = one && one.localRules >= 0 ? [one.localRules] : []
  const deny = (level: Level, object: string): Verdict => ({
    passes: false,
    denied: { code: `denied-${level}`, object },
    finalAllow: false,
    levels,
  })

  const askLevel = (level: Level, sets: readonly number[]): AskedLevel | null => {
    if (sets.length === 0) return null
    const asked = sets.map((index) => askSet(ruleBook(model).set(index), asking))
    const result = { level, passes: asked.some((a) => a.passes), sets: asked }
    levels.push(result)
    return result
  }

  if (asking.direction === 'out') {
    const level = askLevel('local', local)
    if (level && !level.passes) return deny('local', level.sets[0]!.set)
  }
  const estate = askEstate(model, asking, levels)
  if (estate?.action === 'deny') return deny('estate', estate.ref)
  const finalAllow = estate?.action === 'allow'
  if (!finalAllow) {
    const boundary = (): Verdict | null => {
      if (!asking.crosses || subnet.boundary < 0) return null
      const level = askLevel('boundary', [subnet.boundary])
      return level && !level.passes ? deny('boundary', level.sets[0]!.set) : null
    }
    const host = (): Verdict | null => {
      const order =
        asking.direction === 'out'
          ? (['interface', 'subnet'] as const)
          : (['subnet', 'interface'] as const)
      const asked = order
        .map((name) => askLevel(name, name === 'interface' ? interfaceSets : subnet.ruleSets))
        .filter((level) => level !== null)
      const failed = asked.filter((level) => !level.passes)
      const every = model.networks[subnet.network]?.levels !== 'any'
      if (failed.length === 0 || (!every && failed.length < asked.length)) return null
      return deny(failed[0]!.level, failed[0]!.sets[0]!.set)
    }
    const denied = asking.direction === 'out' ? (host() ?? boundary()) : (boundary() ?? host())
    if (denied) return denied
  }
  if (asking.direction === 'in') {
    const level = askLevel('local', local)
    if (level && !level.passes) return deny('local', level.sets[0]!.set)
  }
  return { passes: true, denied: null, finalAllow, levels }
}

/** The boundary of a subnet alone, for what passes its edge without being a host there. */
export function askBoundary(
  model: Model,
  subnet: number,
  asking: Omit<Asking, 'place' | 'crosses' | 'flowAllowedByEstate'>,
): Verdict {
  const boundary = model.subnets[subnet]?.boundary ?? -1
  if (boundary < 0) return PASSES
  const asked = askSet(ruleBook(model).set(boundary), asking)
  const levels: AskedLevel[] = [{ level: 'boundary', passes: asked.passes, sets: [asked] }]
  return {
    passes: asked.passes,
    denied: asked.passes ? null : { code: 'denied-boundary', object: asked.set },
    finalAllow: false,
    levels,
  }
}

function askEstate(
  model: Model,
  asking: Asking,
  levels: AskedLevel[],
): { action: 'allow' | 'deny' | 'defer'; ref: string } | null {
  const rules = ruleBook(model).estateRules()
  if (rules.length === 0) return null
  if (asking.answers) {
    // Estate rules keep state; what they allowed on the way there needs no lower level on the way
    // back.
    return asking.flowAllowedByEstate ? { action: 'allow', ref: '' } : null
  }
  const asked: AskedRule[] = []
  for (const [entry, rule] of rules.entries()) {
    if (rule.direction !== asking.direction || !rule.appliesTo(asking.place)) continue
    const unfit = mismatch(rule, asking.packet, asking.note)
    if (!asking.brief)
      asked.push({ entry, order: rule.order, action: rule.action, mismatch: unfit })
    if (unfit !== null) continue
    levels.push({
      level: 'estate',
      passes: rule.action !== 'deny',
      sets: [
        {
          set: rule.ref,
          stateful: true,
          rules: asked,
          decidedBy: entry,
          passes: rule.action !== 'deny',
          byState: false,
        },
      ],
    })
    return { action: rule.action, ref: rule.ref }
  }
  if (asked.length > 0)
    levels.push({
      level: 'estate',
      passes: true,
      sets: [
        {
          set: 'estateRules',
          stateful: true,
          rules: asked,
          decidedBy: null,
          passes: true,
          byState: false,
        },
      ],
    })
  return null
}

function askSet(
  set: SetModel,
  asking: Pick<Asking, 'direction' | 'packet' | 'answers' | 'note' | 'brief'>,
): AskedSet {
  if (asking.answers && set.stateful)
    return { set: set.ref, stateful: true, rules: [], decidedBy: null, passes: true, byState: true }
  const decided = (rule: SetRule | null, rules: readonly AskedRule[]): AskedSet => ({
    set: set.ref,
    stateful: set.stateful,
    rules,
    decidedBy: rule?.entry ?? null,
    passes: rule?.allow ?? set.otherwise[asking.direction],
    byState: false,
  })
  if (asking.brief) {
    const rule = decidingRule(set, asking.direction, asking.packet, asking.note)
    if (rule !== undefined) return decided(rule, [])
  }
  const asked: AskedRule[] = []
  for (const rule of set.rules) {
    // Rules of the other direction are not asked.
    if (rule.direction !== asking.direction) continue
    const unfit = mismatch(rule, asking.packet, asking.note)
    if (!asking.brief)
      asked.push({
        entry: rule.entry,
        order: rule.order,
        action: rule.allow ? 'allow' : 'deny',
        mismatch: unfit,
      })
    if (unfit === null && (set.ordered || rule.allow)) return decided(rule, asked)
  }
  return decided(null, asked)
}
