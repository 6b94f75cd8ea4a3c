import type { Opening, Talk } from '@salt-trail/core'
import { wayInOrder } from '~/objects/way-element'
import type { PortNames } from '~/questions/port-names'

const nameOf = (ref: string): string => ref.slice(ref.indexOf('/') + 1)

/** Of all addresses of a family, so many count as everybody. */
const EVERYBODY = 0.999

/** Who may send to an opening. */
export function openToText({ from, openTo }: Pick<Opening, 'from' | 'openTo'>): string {
  const everybody = openTo.share >= EVERYBODY
  const who = from === 'internet' ? 'the internet' : nameOf(from)
  if (everybody) return from === 'internet' ? 'anybody on the internet' : `all of ${who}`
  const more = openTo.moreRanges > 0 ? ` and ${openTo.moreRanges} more` : ''
  return `${who}: ${openTo.ranges.join(', ')}${more}`
}

/** What a group of ports is called besides: the name of its service, what it is known for. */
export function portsAbout(
  { ports, protocols, kind }: Pick<Opening, 'ports' | 'protocols' | 'kind'>,
  names: PortNames | null,
): string {
  const isOne = ports !== null && ports.from === ports.to && protocols?.length === 1
  const name = isOne ? (names?.nameOf(String(protocols[0]), ports.from) ?? '') : ''
  const known = {
    administration: isOne ? 'remote administration' : 'ports of remote administration among them',
    database: isOne ? 'database' : 'ports of databases among them',
    other: '',
  }[kind]
  return [name, known].filter(Boolean).join(', ')
}

/** Whether whoever sends gets an answer. */
export const answeredText = (answered: Opening['answered']): string =>
  ({ all: '', some: 'some answers are lost', none: 'every answer is lost' })[answered]

/** An opening as a row of the table that is taken along. */
export const openingTexts = (one: Opening & { readonly on: string }): string[] => [
  one.on,
  openToText(one),
  nameOf(one.to),
  one.subnet,
  one.network,
  one.address,
  one.ways.map((way) => wayInOrder(way) || 'local').join('; '),
  answeredText(one.answered) || 'answered',
]

const MOST_IN_CELL = 2

/** What stands in a cell of the matrix of networks. */
export function talkText({ open, unanswered, hosts, isCut }: Talk): string {
  if (hosts.from === 0 || hosts.to === 0) return 'no hosts'
  const more = open.length > MOST_IN_CELL ? ` +${open.length - MOST_IN_CELL}` : ''
  const said = open.slice(0, MOST_IN_CELL).join(', ') + more
  if (said !== '') return isCut ? `${said} …` : said
  if (isCut) return 'not looked through'
  return unanswered.length > 0 ? 'no answer' : '–'
}
