/**
 * What stands in the address of each view. A link with anything else is refused with what is
 * known, since the view would answer another question than the link asks.
 */
export const PARAMETERS: Readonly<Record<string, readonly string[]>> = {
  exits: [
    ...['only', 'by', 'turned', 'open', 'like', 'find', 'at'],
    ...['compared', 'alike', 'opened'],
  ],
  trace: ['from', 'to', 'over', 'family', 'port', 'branch', 'at', 'beside', 'revision'],
  'next-hops': ['subnet', 'hosts', 'family', 'range', 'list', 'with', 'of'],
  'ways-in': ['subnet', 'show', 'by', 'find', 'network', 'to'],
  findings: ['by', 'family', 'severity', 'about', 'network', 'cause', 'finding', 'find'],
  map: ['open', 'at', 'network', 'finding', 'show', 'from', 'to', 'over', 'family'],
  addresses: ['half', 'to', 'carve', 'into'],
  expectations: ['write', 'must', 'from', 'to', 'over', 'named'],
  draft: ['do', 'object', 'as', 'move', 'subnets', 'failing'],
  revisions: ['revision', 'since'],
  object: ['of'],
  account: ['show', 'find', 'since', 'until'],
  report: [],
}

/** In the address of every view of a draft. */
const EVERYWHERE = ['against']

/** What a link says that its view does not know; nothing for a page that is no view. */
export function unknownParameters(path: string, query: object): readonly string[] {
  const known = PARAMETERS[viewOf(path)]
  return known === undefined
    ? []
    : Object.keys(query).filter((key) => !known.includes(key) && !EVERYWHERE.includes(key))
}

/** The name of a view in a path. */
export const viewOf = (path: string): string => path.split('/').at(-1) ?? ''
