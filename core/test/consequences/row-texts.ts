import type { PacketDifferences, Row } from '../../src/index'

/** Rows as texts that do not depend on their order. */
export const texts = ({ rows }: PacketDifferences): string[] =>
  rows
    .map((row) =>
      JSON.stringify([row.kind, row.partly, row.failed, row.firewalls, row.hosts, ...fields(row)]),
    )
    .sort()

export const fields = ({ from, to, protocols, dstPorts, srcPorts }: Row): unknown[] => [
  [...from].map(([name, ranges]) => `${name} ${spans(ranges)}`).sort(),
  [...to].map(([name, ranges]) => `${name} ${spans(ranges)}`).sort(),
  spans(protocols),
  spans(dstPorts),
  spans(srcPorts),
]
const spans = (set: Row['protocols']): string =>
  set.map(({ from, to }) => `${from}-${to}`).join(' ')
