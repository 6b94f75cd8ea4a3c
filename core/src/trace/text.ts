import type { PacketJson } from '../packet/packet'
import type { Trace } from './trace'
import type { Branch, LaneJson } from './branch'

/** A trace for people: what came of it, then each station of both directions. */
export function traceText(trace: Trace): string {
  const { question } = trace
  const over =
    question.port === null ? String(question.protocol) : `${question.protocol} ${question.port}`
  const lines = [`${question.from} to ${question.to} over ${over}: ${headline(trace)}`]
  const branches = trace.branches.length > 0 ? trace.branches : [trace]
  branches.forEach((branch, index) => {
    if (branches.length > 1)
      lines.push('', `branch ${index + 1} of ${branches.length}: ${headline(branch)}`)
    if (branch.seenAs.length > 0)
      lines.push(
        `  seen as ${branch.seenAs.join(', ')}${branch.leavesBy ? `, leaves by ${branch.leavesBy}` : ''}`,
      )
    lines.push('  there', ...laneLines(branch.forward))
    if (branch.return) lines.push('  back', ...laneLines(branch.return))
    for (const { what } of branch.assumed) lines.push(`  assumed from there on: ${what}`)
  })
  return `${lines.join('\n')}\n`
}

function headline({ verdict, cause }: Branch): string {
  if (!cause) return verdict
  const inner = cause.inner ? ` (${cause.inner.code} at ${cause.inner.object})` : ''
  return `${verdict}: ${cause.code} at ${cause.object}${inner}, on the way ${cause.direction === 'forward' ? 'there' : 'back'}`
}

function laneLines(lane: LaneJson): string[] {
  const widest = Math.max(...lane.stations.map((station) => station.at.length))
  return lane.stations.map((station, index) => {
    const changed = index === 0 || !sameEnds(station.packet, lane.stations[index - 1]!.packet)
    return `  ${station.assumed ? '·' : ' '} ${station.at.padEnd(widest)}  ${station.decision}${changed ? `  [${packetText(station.packet)}]` : ''}`
  })
}

const sameEnds = (a: PacketJson, b: PacketJson): boolean => a.src === b.src && a.dst === b.dst

const withPort = (address: string, port: number | null): string =>
  port === null ? address : address.includes(':') ? `[${address}]:${port}` : `${address}:${port}`
const packetText = (packet: PacketJson): string =>
  `${withPort(packet.src, packet.srcPort)} → ${withPort(packet.dst, packet.dstPort)}`
