import {
  exposureInSteps,
  groupOf,
  opensBehind,
  openingsMeant,
  talkInSteps,
  type Model,
  type Opening,
  type OpeningsMeant,
  type Talk,
} from '@salt-trail/core'
import { Refused } from '../refused'

/**
 * What is found host by host, or pair by pair: large estates take longer than a request may. Each
 * request goes on for a while and tells what is known by then; whoever waits asks again, and other
 * questions have their turn in between.
 */
const MOST_MILLISECONDS = 200

/** Goes on with steps until they are done or the time is over. */
function goOn(hasNext: () => boolean, step: () => void): void {
  const end = performance.now() + MOST_MILLISECONDS
  while (hasNext() && performance.now() < end) step()
}

/** No host is looked at for longer: what is left out then is told. */
const MOST_MILLISECONDS_A_HOST = 3_000
/** More ways in are not kept of one estate. */
const MOST_OPENINGS = 50_000

interface Exposed {
  readonly openings: Opening[]
  readonly hosts: readonly number[]
  looked: number
  cut: number
  /** The host that is being looked at, and for how long it was. */
  steps: ReturnType<typeof exposureInSteps> | null
  milliseconds: number
}
const exposed = new WeakMap<Model, Exposed>()

/** What of the estate is reached from outside, as far as it is known, and some of it. */
export function exposurePage(
  model: Model,
  asked: OpeningsMeant & {
    readonly revision: number
    readonly from: number
    readonly count: number
  },
) {
  const known: Exposed = exposed.get(model) ?? {
    ...{ openings: [], looked: 0, cut: 0, steps: null, milliseconds: 0 },
    hosts: [...model.index.interfaces.values()],
  }
  exposed.set(model, known)
  const hasNext = (): boolean =>
    known.looked < known.hosts.length && known.openings.length < MOST_OPENINGS
  goOn(hasNext, () => {
    const begun = performance.now()
    const isOver = (): boolean => known.milliseconds > MOST_MILLISECONDS_A_HOST
    known.steps ??= exposureInSteps(model, known.hosts[known.looked]!, isOver)
    const { done, value } = known.steps.next()
    known.milliseconds += performance.now() - begun
    if (!done) return
    known.openings.push(...value.openings)
    if (value.isCut) known.cut += 1
    known.looked++
    known.steps = null
    known.milliseconds = 0
  })
  const meant = openingsMeant(known.openings, asked)
  return {
    revision: asked.revision,
    looked: known.looked,
    hosts: known.hosts.length,
    cut: known.cut,
    isDone: !hasNext(),
    total: meant.length,
    openings: meant
      .slice(asked.from, asked.from + asked.count)
      .map((one) => ({ ...one, group: groupOf(one, asked.sort), on: groupOf(one, 'port') })),
  }
}

interface Behind {
  readonly opens: string[]
  looked: number
  cut: number
}
const behind = new WeakMap<Model, Map<string, Behind>>()
const MOST_BEHIND = 500
/** More walks from one host to another are not made. */
const MOST_WALKS_BEHIND = 500

/** The hosts that one which is reached from outside reaches in turn, as far as they are known. */
export function hostsBehind(model: Model, host: string) {
  const own = model.index.interfaces.get(host)
  if (own === undefined)
    throw new Refused(404, 'no-such-interface', `there is no interface "${host}" in this revision`)
  const hosts = [...model.index.interfaces.values()]
  const ofModel = behind.get(model) ?? new Map<string, Behind>()
  behind.set(model, ofModel)
  const known: Behind = ofModel.get(host) ?? { opens: [], looked: 0, cut: 0 }
  ofModel.set(host, known)
  goOn(
    () => known.looked < hosts.length && known.opens.length < MOST_BEHIND,
    () => {
      const other = hosts[known.looked++]!
      const opens = opensBehind(model, own, other, MOST_WALKS_BEHIND)
      if (opens === null) known.cut += 1
      else if (opens) known.opens.push(model.interfaces[other]!.ref)
    },
  )
  const isWhole = known.looked === hosts.length
  return {
    host,
    opens: known.opens,
    looked: known.looked,
    cut: known.cut,
    hosts: hosts.length,
    isDone: isWhole || known.opens.length >= MOST_BEHIND,
  }
}

/** No pair of networks is looked at for longer: what is left out then is told. */
const MOST_MILLISECONDS_A_PAIR = 3_000

interface Talks {
  readonly told: Talk[]
  /** The pair that is being looked at, and for how long it was. */
  steps: ReturnType<typeof talkInSteps> | null
  milliseconds: number
}
const talks = new WeakMap<Model, Map<string, Talks>>()

/** Whom the hosts of a network can talk to, network by network, as far as it is known. */
export function talksOf(model: Model, from: string) {
  const own = model.index.networks.get(from)
  if (own === undefined)
    throw new Refused(404, 'no-such-network', `there is no network "${from}" in this revision`)
  const others = [...model.index.networks.values()].filter((other) => other !== own)
  const ofModel = talks.get(model) ?? new Map<string, Talks>()
  talks.set(model, ofModel)
  const known: Talks = ofModel.get(from) ?? { told: [], steps: null, milliseconds: 0 }
  ofModel.set(from, known)
  goOn(
    () => known.told.length < others.length,
    () => {
      const begun = performance.now()
      const isOver = (): boolean => known.milliseconds > MOST_MILLISECONDS_A_PAIR
      known.steps ??= talkInSteps(model, [own, others[known.told.length]!], isOver)
      const { done, value } = known.steps.next()
      known.milliseconds += performance.now() - begun
      if (!done) return
      known.told.push(value)
      known.steps = null
      known.milliseconds = 0
    },
  )
  return { from, talks: known.told, networks: others.length }
}
