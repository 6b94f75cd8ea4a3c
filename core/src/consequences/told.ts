import { formatAddress } from '../address/address'
import { protocolName } from '../packet/packet'
import type { Question } from '../trace/question'
import type { Pair } from './ends'
import type { DifferenceKind } from './fate'
import { inOrder } from './order'
import type { PacketDifferences } from './packets'
import type { Row } from './rows'
import { endsText, noteText, transportText } from './words'

/** A row in the words of a screen, with the question that asks for its packet. */
export interface ToldRow {
  readonly kind: DifferenceKind
  readonly from: string
  readonly to: string
  readonly on: string
  /** Which firewalls, which hosts, or that only some ways are meant; empty where nothing is. */
  readonly note: string
  readonly failed: boolean
  readonly partly: boolean
  readonly question: Question
}

/** Packets that differ, told row by row; the first of each kind where there are many. */
export interface ToldPackets {
  readonly rows: readonly ToldRow[]
  /** How many rows of each kind there are, also of those that are not told. */
  readonly counts: { readonly [K in DifferenceKind]: number }
  readonly leftOut: readonly string[]
}

export const DIFFERENCE_KINDS = ['cut', 'passedBy', 'opened', 'elsewhere', 'inspected'] as const

/** More rows of a kind than these are counted only. */
export const MOST_TOLD = 200

/** Puts packets that differ into words, the gravest kinds first. */
export function tellPackets(
  pair: Pair,
  { rows, leftOut }: PacketDifferences,
  most: number = MOST_TOLD,
): ToldPackets {
  const ordered = inOrder(rows)
  const byKind = DIFFERENCE_KINDS.map((kind) => ordered.filter((row) => row.kind === kind))
  return {
    rows: byKind.flatMap((own) => own.slice(0, most).map((row) => tellRow(pair, row))),
    counts: Object.fromEntries(
      DIFFERENCE_KINDS.map((kind, at) => [kind, byKind[at]!.length]),
    ) as ToldPackets['counts'],
    leftOut,
  }
}

function tellRow(pair: Pair, row: Row): ToldRow {
  const { kind, failed, partly } = row
  return {
    kind,
    from: endsText(pair, row.from),
    to: endsText(pair, row.to),
    on: transportText(row),
    note: noteText(row),
    failed,
    partly,
    question: questionOf(row),
  }
}

/** The question that asks for the packet of a row, from the end that has its source. */
export function questionOf({ from, packet }: Row): Question {
  const { src, dst, protocol, srcPort, dstPort } = packet
  const holds = ([, set]: readonly [string, Row['protocols']]): boolean =>
    set.some(({ from: low, to }) => typeof low === typeof src && low <= src && src <= to)
  const [name = ''] = [...from].find(holds) ?? []
  return {
    from: name.startsWith('interface:') ? `${name}@${formatAddress(src)}` : formatAddress(src),
    to: formatAddress(dst),
    protocol: protocolName(protocol),
    port: dstPort,
    sourcePort: srcPort,
  }
}
