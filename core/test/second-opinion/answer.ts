import type { Estate } from '../../src/format/estate'
import { isPublic, textOf } from './bits'
import { deliver, send } from './inside'
import { policyAllows } from './firewalls'
import {
  Arrived,
  ask,
  askEdge,
  lose,
  Lost,
  turned,
  type Flow,
  type Journey,
  type Place,
} from './journey'
import { onTheInternet } from './outside'
import { fromSite } from './coming-in'
import type { Packet } from './rules'
import { endsOf, type End } from './ends'

export interface Asked {
  readonly from: string
  readonly to: string
  readonly protocol: string
  readonly port: number | null
  readonly sourcePort: number | null
}

/** One path there and back, in the words both implementations share. */
export interface Path {
  readonly verdict: string
  readonly code: string | null
  /** What may be named as having failed. */
  readonly objects: readonly string[]
  readonly direction: string | null
  readonly inner: string | null
  readonly way: readonly string[]
  readonly leavesBy: string | null
  readonly seenAs: readonly string[]
}

/** More paths than these are not counted out. */
const MANY = 400

/**
 * Every path a question has; `null` where it cannot be asked, `'many'` where there are too many.
 */
export function answersTo(estate: Estate, asked: Asked): readonly Path[] | null | 'many' {
  const ends = endsOf(estate, asked)
  if (ends === null) return null
  const { from, targets } = ends
  const protocol = { icmp: 1, tcp: 6, udp: 17 }[asked.protocol]!
  const paths: Path[] = []
  for (const { to, src, dst } of targets) {
    // Every journey starts anew, and takes at each parting what the script says; then the last
    // parting that has more takes its next.
    const script: number[] = []
    do {
      const counts: number[] = []
      const choose = <T>(options: readonly T[]): T => {
        counts.push(options.length)
        return options[(script[counts.length - 1] ??= 0)]!
      }
      paths.push(
        onePath(estate, choose, from, to, {
          src,
          dst,
          protocol,
          sport: asked.sourcePort,
          dport: asked.port,
        }),
      )
      if (paths.length > MANY) return 'many'
      script.length = counts.length
      while (script.length > 0 && script.at(-1)! + 1 >= counts[script.length - 1]!) script.pop()
      if (script.length > 0) script[script.length - 1]!++
    } while (script.length > 0)
  }
  return paths
}

function onePath(
  estate: Estate,
  choose: Journey['choose'],
  from: End,
  to: End,
  packet: Packet,
): Path {
  const out = journey(estate, choose, packet, null)
  const start = from.place!
  const there = run(() => {
    if (to.kind === 'unknown name')
      lose(
        out,
        'name-unknown',
        from.network === null ? (start as { outside: string }).outside : `networks/${from.network}`,
      )
    if ('outside' in start && !start.outside.startsWith('sites/') && !isPublic(packet.dst)) {
      const host = to.kind === 'interface' || to.kind === 'subnet'
      const ref =
        to.place === null ? 'internet' : 'inside' in to.place ? to.place.ref : to.place.outside
      lose(out, host ? 'no-public-address' : 'private-destination', ref)
    }
    begin(out, start)
  })
  const leavesBy =
    'outside' in start
      ? null
      : (out.leavesBy ??
        out.way.find((ref) => ref.startsWith('peerings/') || ref.startsWith('transits/')) ??
        null)
  const common = { way: out.way, leavesBy }
  if (there instanceof Lost)
    return { ...common, ...said(there, 'forward'), verdict: verdictOf(there.code), seenAs: [] }
  const seenAs = (out.seenAs ?? [textOf(out.packet.src)]).slice().sort()
  const last: Flow = {
    asker: out.flows.at(-1)?.answerer ?? start,
    askerAddress: out.began.src,
    asked: { address: out.began.dst, port: out.began.dport },
    answerer: there.where,
    packet: out.packet,
    translated: out.translated,
    passed: out.passed,
    finals: out.finals,
    firewalls: out.firewalls,
    questions: out.questions,
  }
  // Where a frontend stands between, the flow it opened is answered first, then the one it ended.
  const flows = [
    ...out.flows.map((flow, i): Flow => (i === 0 ? { ...flow, asker: start } : flow)),
    last,
  ].reverse()
  for (const flow of flows) {
    const lost = answer(estate, choose, flow)
    if (lost) return { ...common, ...said(lost, 'return'), verdict: 'one-way', seenAs }
  }
  return {
    ...common,
    verdict: 'works',
    code: null,
    objects: [],
    direction: null,
    inner: null,
    seenAs,
  }
}

const said = (
  lost: Lost,
  direction: string,
): Pick<Path, 'code' | 'objects' | 'direction' | 'inner'> => ({
  code: lost.code,
  objects: lost.objects,
  direction,
  inner: lost.inner === null ? null : lost.inner.code,
})

function verdictOf(code: string): string {
  if (code === 'looped') return code
  return code.startsWith('denied-') ||
    ['no-state', 'nat-outbound-only', 'gateway-outbound-only'].includes(code)
    ? 'blocked'
    : 'blackholed'
}

function journey(
  estate: Estate,
  choose: Journey['choose'],
  packet: Packet,
  answering: Flow | null,
): Journey {
  const undo = [...(answering?.translated ?? [])].reverse()
  return {
    estate,
    choose,
    packet,
    began: packet,
    answering,
    undo,
    translated: [],
    passed: [],
    finals: [],
    firewalls: [],
    questions: [],
    flows: [],
    way: [],
    leavesBy: null,
    seenAs: null,
    nat: null,
    been: new Map(),
  }
}

function run(go: () => void): Arrived | Lost {
  try {
    go()
  } catch (end) {
    if (end instanceof Arrived || end instanceof Lost) return end
    throw end
  }
  throw new Error('a journey ended nowhere')
}

function begin(j: Journey, start: Place): void {
  if ('inside' in start) send(j, { spot: start.inside, as: 'host', name: start.ref })
  if (start.behind) {
    j.way.push(start.behind.by)
    deliver(j, start.behind.network, null)
  }
  if (start.outside.startsWith('sites/')) fromSite(j, start.outside.slice('sites/'.length))
  onTheInternet(j)
}

/** The answer to one flow; what it is lost for, if it is. */
function answer(estate: Estate, choose: Journey['choose'], flow: Flow): Lost | null {
  const { protocol } = flow.packet
  const ends = [flow.asker, flow.answerer].flatMap((place) =>
    'inside' in place ? [place.inside] : [],
  )
  const j = journey(estate, choose, turned(flow.packet), {
    ...flow,
    passed: [...flow.passed, ...ends],
  })
  if ('inside' in flow.answerer && flow.answerer.inside.frontend !== undefined)
    return backByTheSameWay(j, flow)
  const end = run(() => begin(j, flow.answerer))
  const missed =
    protocol === 6
      ? flow.firewalls.find((seen) => !j.firewalls.some((met) => met.ref === seen.ref))?.ref
      : undefined
  if (
    missed !== undefined &&
    (end instanceof Arrived || end.code === 'no-state' || end.code === 'answer-from-other-address')
  )
    return new Lost('return-bypasses-firewall', [missed])
  return end instanceof Lost ? end : null
}

/**
 * A frontend answers its caller by the way he came: whatever was asked is asked the other way
 * round, and no route is.
 */
function backByTheSameWay(j: Journey, flow: Flow): Lost | null {
  const end = run(() => {
    for (const question of [...flow.questions].reverse()) {
      j.packet = turned(question.packet)
      const direction = question.direction === 'in' ? 'out' : 'in'
      if ('spot' in question) ask(j, question.spot, direction, question.crosses)
      else if ('edge' in question) askEdge(j, question.edge, direction)
      else {
        const firewall = j.estate.firewalls.get(question.wall.slice('firewalls/'.length))!
        const sides = question.sides && { from: question.sides.to, to: question.sides.from }
        if (!(firewall.stateful ?? true) && !policyAllows(j.estate, firewall, sides, j.packet))
          lose(j, 'denied-policy', question.wall)
      }
    }
    throw new Arrived(flow.asker)
  })
  return end instanceof Lost ? end : null
}
