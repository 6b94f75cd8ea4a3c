import type { Move } from '@salt-trail/core'
import { wordsIn } from '~/views/draft/words-in'

/** A field of a move's form. */
export interface MoveField {
  readonly key: string
  readonly label: string
  readonly kind:
    'subnets' | 'ids' | 'id' | 'choice' | 'text' | 'texts' | 'number' | 'failing' | 'flag'
  /** Of ids: the section they are of. */
  readonly section?: string
  readonly choices?: readonly { readonly value: string; readonly says: string }[]
  /** May be left out. */
  readonly optional?: true
  readonly hint?: string
}

export interface MoveKind {
  readonly name: string
  readonly title: string
  readonly says: string
  /** What every move of the kind has. */
  readonly fixed: Readonly<Record<string, unknown>>
  readonly fields: readonly MoveField[]
}

const subnets: MoveField = { key: 'subnets', label: 'subnets', kind: 'subnets' }
const natField: MoveField = { key: 'nat', label: 'NAT', kind: 'id', section: 'nats' }
const addressField: MoveField = {
  key: 'address',
  label: 'address',
  kind: 'id',
  section: 'publicAddresses',
}
const ROLES = ['public', 'private', 'isolated', 'inspection', 'transit']
const asChoices = (values: readonly string[]) => values.map((value) => ({ value, says: value }))

/** The ready-made moves, in the order in which they are offered. */
export const MOVES: readonly MoveKind[] = [
  {
    name: 'way-out',
    title: 'A way out',
    says: 'NATs for chosen subnets, with addresses of the reserve, and the routes that lead there.',
    fixed: { move: 'way-out' },
    fields: [
      subnets,
      {
        key: 'by',
        label: 'by',
        kind: 'choice',
        choices: [
          { value: 'one', says: 'one NAT for each network' },
          { value: 'zone', says: 'one for each zone' },
          { value: 'subnet', says: 'one for each subnet' },
        ],
      },
      {
        key: 'addresses',
        label: 'addresses',
        kind: 'texts',
        optional: true,
        hint: 'of the reserve; or name those you will reserve',
      },
    ],
  },
  {
    name: 'endpoints',
    title: 'Services by endpoint',
    says: 'The provider’s services by endpoints of the network instead of by the way out.',
    fixed: { move: 'endpoints' },
    fields: [subnets, { key: 'services', label: 'services', kind: 'ids', section: 'services' }],
  },
  {
    name: 'wall',
    title: 'A firewall in front',
    says: 'Routes of both directions through a firewall, the table on the gateway among them.',
    fixed: { move: 'wall' },
    fields: [
      subnets,
      { key: 'firewall', label: 'firewall', kind: 'id', section: 'firewalls' },
      {
        key: 'traffic',
        label: 'for traffic',
        kind: 'choice',
        choices: [
          { value: 'internet', says: 'to the internet' },
          { value: 'networks', says: 'between networks' },
          { value: 'both', says: 'of both kinds' },
        ],
      },
    ],
  },
  {
    name: 'join',
    title: 'Join networks',
    says: 'Peerings and routes, as a hub with spokes or as a mesh.',
    fixed: { move: 'join' },
    fields: [
      {
        key: 'hub',
        label: 'hub',
        kind: 'id',
        section: 'networks',
        optional: true,
        hint: 'none for a mesh',
      },
      { key: 'members', label: 'members', kind: 'ids', section: 'networks' },
      {
        key: 'where',
        label: 'or all where',
        kind: 'text',
        optional: true,
        hint: 'tag:key=value, region:ID, or a name with *',
      },
      {
        key: 'apart',
        label: 'apart by tag',
        kind: 'text',
        optional: true,
        hint: 'a key such as stage: networks with other values of it never meet',
      },
      {
        key: 'tellWalls',
        label: 'firewalls',
        kind: 'flag',
        optional: true,
        hint: 'those of joined networks are told each other’s ranges',
      },
    ],
  },
  {
    name: 'associate',
    title: 'Associate subnets',
    says: 'Many subnets with one route table in one act; a table that is not there is made.',
    fixed: { move: 'associate' },
    fields: [
      subnets,
      {
        key: 'table',
        label: 'route table',
        kind: 'id',
        section: 'routeTables',
        hint: 'one that is there, or the id of a new one',
      },
      {
        key: 'copyOf',
        label: 'a new one begins as',
        kind: 'id',
        section: 'routeTables',
        optional: true,
      },
    ],
  },
  {
    name: 'carve',
    title: 'Carve a range',
    says: 'Equal subnets by zone and role, colliding with nothing that is there or planned.',
    fixed: { move: 'carve' },
    fields: [
      { key: 'network', label: 'network', kind: 'id', section: 'networks' },
      { key: 'range', label: 'range', kind: 'text', hint: 'a prefix, such as 10.40.0.0/20' },
      { key: 'length', label: 'parts of /', kind: 'number' },
      { key: 'roles', label: 'roles', kind: 'ids', choices: asChoices(ROLES) },
      { key: 'zones', label: 'zones', kind: 'ids', section: 'zones', optional: true },
    ],
  },
  {
    name: 'fix',
    title: 'A fixed source',
    says: 'Shows a partner one public address that stays.',
    fixed: { move: 'fixed-source', act: 'fix' },
    fields: [
      natField,
      { key: 'party', label: 'partner', kind: 'id', section: 'parties' },
      { ...addressField, optional: true, hint: 'the first free one of the reserve' },
    ],
  },
  {
    name: 'drain',
    title: 'Drain an address',
    says: 'Takes a public address of a NAT out of use; what stands goes on.',
    fixed: { move: 'fixed-source', act: 'drain' },
    fields: [natField, addressField],
  },
  {
    name: 'swap',
    title: 'Swap an address',
    says: 'Puts another public address in its place, and drains the old one.',
    fixed: { move: 'fixed-source', act: 'swap' },
    fields: [
      natField,
      addressField,
      { ...addressField, key: 'by', label: 'by', optional: true, hint: 'the first free one' },
    ],
  },
  {
    name: 'clean-up',
    title: 'Clean up',
    says: 'Takes out what is idle, in an order that leaves nothing dangling.',
    fixed: { move: 'clean-up' },
    fields: [],
  },
  {
    name: 'fail',
    title: 'Fail something',
    says: 'A zone, a NAT, a gateway, a firewall, a circuit: what goes down with it, and what takes a way it should not.',
    fixed: { move: 'fail' },
    fields: [{ key: 'failing', label: 'what fails', kind: 'failing' }],
  },
]

/** Sections whose objects fail most often, offered first. */
export const FAILING = [
  'nats',
  'gateways',
  'firewalls',
  'transits',
  'peerings',
  'endpoints',
  'frontends',
  'interfaces',
  'subnets',
] as const

export type Filled = Readonly<Record<string, string | readonly string[]>>

/** The move of a filled form; null while something is missing. */
export function moveOf({ fixed, fields }: MoveKind, filled: Filled): Move | null {
  const values: Record<string, unknown> = { ...fixed }
  for (const { key, kind, optional } of fields) {
    const held = filled[key]
    const isList = kind === 'subnets' || kind === 'ids' || kind === 'failing'
    if (isList) {
      const list = Array.isArray(held) ? held : []
      if (list.length === 0 && !optional && key !== 'members') return null
      values[key] = list
    } else if (typeof held === 'string' && held.trim() !== '')
      values[key] =
        kind === 'flag'
          ? true
          : kind === 'number'
            ? Number(held)
            : kind === 'texts'
              ? wordsIn(held)
              : held.trim()
    else if (!optional) return null
    else if (key === 'hub') values.hub = null
  }
  return values as unknown as Move
}
