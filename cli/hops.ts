import {
  compile,
  hopMemo,
  hopsJson,
  waysInOf,
  type HopRangeJson,
  type Model,
  type SubnetModel,
  type WaysIn,
} from '@salt-trail/core'
import { stringify } from 'csv-stringify/sync'
import { FINE, REFUSED } from './exit-status'
import { estateOrComplain } from './read-files'

export interface SubnetFlags {
  readonly subnet?: string
  readonly json?: boolean
  readonly csv?: boolean
}

/** The subnets asked for, or null after it was said that there is no such one. */
function subnetsOf(model: Model, id: string | undefined): SubnetModel[] | null {
  const live = model.subnets.filter((subnet) => model.index.subnets.has(subnet.id))
  if (id === undefined) return live
  const one = live.find((subnet) => subnet.id === id)
  if (one) return [one]
  process.stderr.write(
    `there is no subnet "${id}" in this estate; there are ${live
      .slice(0, 6)
      .map((subnet) => subnet.id)
      .join(', ')}${live.length > 6 ? ' and others' : ''}\n`,
  )
  return null
}

const causeText = ({ cause }: Pick<HopRangeJson, 'cause'>): string =>
  cause === null
    ? ''
    : `${cause.code} at ${cause.object}${cause.inner ? `, inside ${cause.inner.code} at ${cause.inner.object}` : ''}`
const wayText = (way: readonly string[]): string => way.join(' > ')

/** `salt-trail hops`: the effective next hops of every subnet, or of one. */
export function hops(names: readonly string[], flags: SubnetFlags): number {
  const estate = estateOrComplain(names)
  if (!estate) return REFUSED
  const model = compile(estate)
  const subnets = subnetsOf(model, flags.subnet)
  if (!subnets) return REFUSED
  const memo = hopMemo()
  if (flags.json) {
    process.stdout.write('[')
    for (const [at, subnet] of subnets.entries())
      process.stdout.write(
        `${at === 0 ? '' : ','}\n${JSON.stringify(hopsJson(model, subnet, memo), null, 1)}`,
      )
    process.stdout.write('\n]\n')
    return FINE
  }
  if (flags.csv)
    process.stdout.write(
      stringify([
        [
          'subnet',
          'hosts',
          'from',
          'to',
          'winner',
          'origin',
          'next hop',
          'way',
          'leaves by',
          'seen as',
          'cause',
          'shadowed',
        ],
      ]),
    )
  for (const subnet of subnets) {
    const { kinds } = hopsJson(model, subnet, memo)
    for (const { hosts, ranges } of kinds) {
      const who =
        hosts.length === 0
          ? 'nobody yet'
          : hosts.map((ref) => ref.slice('interfaces/'.length)).join(' ')
      if (!flags.csv) process.stdout.write(`${subnet.id}: ${who}\n`)
      for (const range of ranges) {
        const winner = range.winners.map((route) => route.to).join(' ')
        if (flags.csv) {
          const origin = range.winners.map((route) => route.origin).join(' ')
          const target = range.winners.map((route) => route.target).join(' ')
          const shadowed = range.shadowed.map((route) => `${route.to} ${route.target}`).join('; ')
          process.stdout.write(
            stringify([
              [
                subnet.id,
                who,
                range.from,
                range.to,
                winner,
                origin,
                target,
                wayText(range.way),
                range.leavesBy ?? '',
                range.seenAs.join(' '),
                causeText(range),
                shadowed,
              ],
            ]),
          )
        } else {
          const how =
            range.cause === null ? wayText(range.way) || 'local' : `lost: ${causeText(range)}`
          process.stdout.write(
            `  ${`${range.from} - ${range.to}`.padEnd(35)} ${winner.padEnd(18)} ${how}\n`,
          )
        }
      }
    }
  }
  return FINE
}

/** `salt-trail ways-in`: who can reach the hosts of every subnet, or of one. */
export function waysIn(names: readonly string[], flags: SubnetFlags): number {
  const estate = estateOrComplain(names)
  if (!estate) return REFUSED
  const model = compile(estate)
  const subnets = subnetsOf(model, flags.subnet)
  if (!subnets) return REFUSED
  const memo = hopMemo()
  const found = subnets.map((subnet) => waysInOf(model, subnet, memo))
  if (flags.json) process.stdout.write(`${JSON.stringify(found, null, 1)}\n`)
  else if (flags.csv) {
    const rows = found.flatMap(({ subnet, ways }) =>
      ways.flatMap((way) =>
        way.packets.map((box) => [
          subnet,
          way.from,
          way.to,
          box.src,
          box.dst,
          box.protocols?.join(' ') ?? 'any',
          box.dstPorts ?? '',
          way.ways.map(wayText).join('; '),
        ]),
      ),
    )
    process.stdout.write(
      stringify([
        ['subnet', 'from', 'to', 'sources', 'destinations', 'protocols', 'ports', 'ways'],
        ...rows,
      ]),
    )
  } else for (const one of found) printWaysIn(one)
  return FINE
}

function printWaysIn({ subnet, ways, jumps, leftOut }: WaysIn): void {
  process.stdout.write(
    `${subnet.slice('subnets/'.length)}: ${ways.length === 0 && leftOut.length === 0 ? 'nobody outside it reaches a host here' : ''}\n`,
  )
  for (const way of ways) {
    process.stdout.write(
      `  from ${way.from} to ${way.to}${way.ways.some((one) => one.length > 0) ? ` by ${way.ways.map(wayText).join('; ')}` : ''}\n`,
    )
    for (const box of way.packets)
      process.stdout.write(
        `    ${box.src} to ${box.dst}, ${box.protocols?.join(' ') ?? 'any protocol'}${box.dstPorts === null || box.dstPorts === '0-65535' ? '' : ` ${box.dstPorts}`}\n`,
      )
  }
  for (const { host, opens } of jumps)
    if (opens.length > 0) process.stdout.write(`  ${host} opens up ${opens.join(', ')}\n`)
  for (const { from, to } of leftOut)
    process.stdout.write(`  from ${from} to ${to}: too many kinds of packets, left out in part\n`)
}
