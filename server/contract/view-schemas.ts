import { EXIT_COLUMNS, MAP_COLUMNS, SEVERITIES } from '@salt-trail/core'
import { z } from 'zod'
import { change, countUpTo, from, packet, text } from './parts'
import { objectChange, questionBody, problemsAnswer, revisionInfo } from './schemas'

const cause = z.object({ code: z.string(), object: z.string() })
const exitWay = z.object({
  kind: z.enum(['translated', 'inspected', 'direct', 'private-line', 'service', 'local', 'lost']),
  by: z.string().nullable(),
  way: z.array(z.string()),
  branches: z.int(),
  leavesBy: z.string().nullable(),
  seenAs: z.array(z.string()),
  cause: cause.extend({ inner: cause.optional() }).nullable(),
  ranges: z.array(z.string()).nullable(),
  moreRanges: z.number().int(),
  family: z.union([z.literal(4), z.literal(6)]),
  hosts: z.array(z.string()).nullable(),
  question: z.object({ from: z.string(), to: z.string() }),
})
const cellFinding = z.object({
  fingerprint: z.string(),
  family: z.enum(['leak', 'hole', 'weak']),
  sentence: z.string(),
  anchor: z.string(),
  members: z.array(z.string()),
  question: z.object({ from: z.string(), to: z.string() }).nullable(),
})
const columnFindings = z.partialRecord(z.enum(EXIT_COLUMNS), z.array(cellFinding))
export const exitsAnswer = z
  .object({
    revision: z.int(),
    milliseconds: z.number(),
    total: z.int(),
    rows: z.array(
      z.object({
        subnet: z.string(),
        internet: z.array(exitWay),
        services: z.array(exitWay),
        sites: z.array(exitWay),
        otherNetworks: z.array(exitWay),
        sameNetwork: z.array(exitWay),
        findings: columnFindings,
        entering: columnFindings,
      }),
    ),
  })
  .meta({ id: 'Exits', description: 'By what the traffic of every subnet leaves' })

export const subnetQuery = z.object({ subnet: text.min(1).max(128) }).meta({ id: 'SubnetQuery', description: 'The subnet that is asked about, by its id' })

const station = z.object({
  at: z.string(),
  kind: z.string(),
  decision: z.string(),
  packet,
  evidence: z.record(z.string(), z.unknown()),
  assumed: z.literal(true).optional(),
})
const lane = z.object({ outcome: z.string(), stations: z.array(station) })
const branch = z.object({
  verdict: z.enum(['works', 'one-way', 'blocked', 'blackholed', 'looped']),
  cause: cause.extend({ direction: z.enum(['forward', 'return']), station: z.int(), inner: cause.optional() }).nullable(),
  seenAs: z.array(z.string()),
  way: z.array(z.string()),
  leavesBy: z.string().nullable(),
  forward: lane,
  return: lane.nullable(),
  assumed: z.array(z.object({ direction: z.string(), station: z.int(), what: z.string() })),
  faults: z.array(cause),
})
export const traceAnswer = branch
  .extend({
    question: questionBody,
    branches: z.array(branch),
    truncated: z.boolean(),
    name: z
      .object({
        asked: z.string(),
        answeredBy: z.string().nullable(),
        addresses: z.array(z.string()),
        nameServers: z.array(z.object({ address: z.string(), reachable: z.boolean() })),
      })
      .optional(),
  })
  .meta({ id: 'Trace', description: 'The answer to a question: both directions, station by station' })

export const mendsAnswer = z
  .object({
    mends: z.array(z.object({ code: z.string().nullable(), object: z.string(), sentence: z.string(), changes: z.array(change) })),
    works: z.boolean(),
    stuckAt: cause.extend({ direction: z.string(), station: z.int(), inner: cause.optional() }).nullable(),
  })
  .meta({ id: 'Mends', description: 'What would make a question work, fault by fault, or stop its packet: changes after RFC 6902, each tried' })

export const outlineAnswer = z
  .object({
    slug: z.string(),
    name: z.string(),
    revision: revisionInfo,
    head: z.int(),
    counts: z.record(z.string(), z.int()),
    networks: z.array(
      z.object({ id: z.string(), title: z.string().nullable(), ranges: z.array(z.string()), behaviour: z.string(), region: z.string().nullable() }),
    ),
    subnets: z.array(
      z.object({
        id: z.string(),
        title: z.string().nullable(),
        network: z.string(),
        ranges: z.array(z.string()),
        zone: z.string().nullable(),
        region: z.string().nullable(),
        role: z.string().nullable(),
        table: z.string().nullable(),
        ownTable: z.boolean(),
      }),
    ),
    members: z.object({ services: z.array(z.string()), sites: z.array(z.string()), otherNetworks: z.array(z.string()) }),
    ends: z.array(z.object({ end: z.string(), id: z.string(), about: z.string(), home: z.string().optional() })),
  })
  .meta({ id: 'Outline', description: 'What a revision holds, as far as views and completion need it' })

export const refusalAnswer = z
  .object({ statusCode: z.int(), message: z.string(), data: z.object({ code: z.string(), message: z.string() }).loose() })
  .meta({ id: 'Refusal', description: 'Why a request was refused, and what to do' })

const expectationState = z.object({
  id: z.string(),
  must: z.string(),
  says: z.string(),
  state: z.enum(['holds', 'broken', 'empty']),
  sentence: z.string(),
  from: z.string().nullable(),
  to: z.string().nullable(),
  packet: packet.nullable(),
  because: z.string().nullable(),
})
export const exitsQuery = z.object({ from, count: countUpTo(2_000) }).meta({ id: 'ExitsQuery' })
const counts = (...names: string[]) => z.object(Object.fromEntries(names.map((name) => [name, z.int()])))
const MOST_ROWS_OPENED = 100
const someSubnets = text
  .max(20_000)
  .transform((text) => text.split(','))
  .pipe(z.array(z.string().min(1)).max(MOST_ROWS_OPENED))
  .meta({ description: `Up to ${MOST_ROWS_OPENED} subnets, with commas between` })
export const MOST_COLUMNS_OPENED = 40
export const membersQuery = z
  .object({
    column: z.enum(['services', 'sites', 'otherNetworks']),
    subnets: someSubnets,
    members: text
      .max(10_000)
      .transform((text) => text.split(','))
      .pipe(z.array(z.string().min(1)).max(MOST_COLUMNS_OPENED))
      .optional()
      .meta({
        description: `Up to ${MOST_COLUMNS_OPENED} of the column's members, with commas between; the first ${MOST_COLUMNS_OPENED} where none are named`,
      }),
    turned: z.enum(['leaving', 'entering']).default('leaving'),
  })
  .meta({ id: 'MembersQuery' })
export const entriesQuery = z.object({ subnets: someSubnets }).meta({ id: 'EntriesQuery' })
const entryWays = z.array(exitWay)
export const entriesAnswer = z
  .object({
    revision: z.int(),
    rows: z.array(
      z.object({
        subnet: z.string(),
        internet: entryWays,
        services: entryWays,
        sites: entryWays,
        otherNetworks: entryWays,
        sameNetwork: entryWays,
      }),
    ),
  })
  .meta({ id: 'Entries', description: 'By what traffic enters some subnets, from each kind of place: routes alone' })
export const membersAnswer = z
  .object({
    revision: z.int(),
    column: z.string(),
    members: z.array(z.string()),
    rows: z.array(z.object({ subnet: z.string(), cells: z.array(z.array(exitWay)) })),
  })
  .meta({ id: 'Members', description: 'What a column of the matrix opens into, for some rows' })
export const analysisAnswer = z
  .object({
    revision: z.int(),
    state: z.enum(['none', 'running', 'done', 'failed', 'stopped']),
    progress: z.object({ about: z.string(), done: z.int(), of: z.int() }).optional(),
    message: z.string().optional(),
    finishedAt: z.iso.datetime().optional(),
    milliseconds: z.int().optional(),
    counts: z
      .object({
        findings: counts(...SEVERITIES),
        families: counts('leak', 'hole', 'weak'),
        accepted: z.int(),
        expectations: counts('holds', 'broken', 'empty'),
      })
      .optional(),
  })
  .meta({ id: 'Analysis', description: 'How far the analysis of a revision is, and how much it found' })
export const expectationsAnswer = z.object({ revision: z.int(), expectations: z.array(expectationState) }).meta({ id: 'Expectations' })
export const provedAnswer = problemsAnswer
  .extend({ expectations: z.array(expectationState).nullable() })
  .meta({ id: 'Proved', description: 'What became of expectations that are not saved; null where their text cannot be read' })
export const onlookerQuery = z
  .object({ to: text.min(1).max(200).meta({ description: 'Who looks: `internet`, `party:ID`, an address or a prefix' }) })
  .meta({ id: 'OnlookerQuery' })
const seenCause = cause.nullable()
export const seenAsAnswer = z
  .object({
    revision: z.int(),
    to: z.string(),
    allowlist: z.array(z.string()).nullable(),
    unused: z.array(z.string()),
    addresses: z.array(
      z.object({
        address: z.string().nullable(),
        by: z.string().nullable(),
        lasting: z.enum(['reserved', 'kept', 'draining', 'automatic', 'with-host', 'unforeseeable', 'own']),
        allowed: z.boolean().nullable(),
        subnets: z.array(z.string()),
      }),
    ),
    lost: z.array(
      z.object({
        subnet: z.string(),
        hosts: z.array(z.string()).nullable(),
        family: z.union([z.literal(4), z.literal(6)]),
        ranges: z.array(z.string()).nullable(),
        by: z.string().nullable(),
        addresses: z.array(z.string()),
        cause: seenCause,
      }),
    ),
  })
  .meta({ id: 'SeenAs', description: 'By which addresses somebody outside sees the subnets, and how long these last' })
export const spaceAnswer = z
  .object({
    revision: z.int(),
    networks: z.array(
      z.object({
        network: z.string(),
        ranges: z.array(
          z.object({
            prefix: z.string(),
            addresses: z.string(),
            carvedShare: z.number(),
            carved: z.array(z.object({ prefix: z.string(), subnet: z.string(), taken: z.int(), usable: z.string() })),
            free: z.array(z.string()),
            moreFree: z.int(),
          }),
        ),
        collisions: z.array(z.object({ prefix: z.string(), with: z.string(), other: z.string() })),
      }),
    ),
  })
  .meta({ id: 'Space', description: 'What the networks’ ranges are carved into, what is free, and what else has the same addresses' })
const historyRow = revisionInfo.extend({ counts: z.object({ leak: z.int(), hole: z.int(), weak: z.int(), broken: z.int() }).nullable() })
export const historyAnswer = z
  .array(historyRow)
  .meta({ id: 'History', description: 'The revisions with how much is wrong with each; null where it is not analysed' })
export const sinceQuery = z
  .object({ since: z.coerce.number().int().min(1).max(999_999_999).meta({ description: 'The number of the other revision' }) })
  .meta({ id: 'SinceQuery' })
const wayText = z.object({ way: z.array(z.string()), leavesBy: z.string().nullable(), seenAs: z.array(z.string()), cause: cause.nullable() })
export const differenceAnswer = z
  .object({
    revision: z.int(),
    since: z.int(),
    objects: z.array(objectChange),
    wayCount: z.int(),
    subnetCount: z.int(),
    ways: z.array(
      z.object({
        subnet: z.string(),
        host: z.string(),
        ranges: z.array(z.string()),
        moreRanges: z.int(),
        before: wayText.nullable(),
        after: wayText.nullable(),
      }),
    ),
  })
  .meta({ id: 'Difference', description: 'What differs between two revisions, as objects and as ways' })
export const mapQuery = z
  .object({
    open: text
      .max(10_000)
      .transform((text) => text.split(',').filter(Boolean))
      .pipe(z.array(z.string()).max(100))
      .default([])
      .meta({
        description:
          'Networks to show with their subnets where a large estate folds them, and `all:sites`, `all:parties` or `all:services` one by one; with commas between',
      }),
  })
  .meta({ id: 'MapQuery' })
export const mapAnswer = z
  .object({
    revision: z.int(),
    folds: z.boolean(),
    nodes: z.array(
      z.object({
        ref: z.string(),
        column: z.enum(MAP_COLUMNS),
        kind: z.string(),
        about: z.string(),
        up: z.boolean(),
        subnets: z.array(z.object({ ref: z.string(), zone: z.string(), role: z.string().nullable() })).nullable(),
        stands: z.array(z.string()),
      }),
    ),
    edges: z.array(z.object({ from: z.string(), to: z.string(), by: z.string().nullable() })),
  })
  .meta({ id: 'Map', description: 'What stands in the estate and what joins it' })
const routeRef = z.object({ to: z.string(), origin: z.string(), target: z.string(), table: z.string().nullable(), entry: z.int().nullable() })
const hopRange = z.object({
  family: z.union([z.literal(4), z.literal(6)]),
  from: z.string(),
  to: z.string(),
  prefixes: z.array(z.string()),
  winners: z.array(routeRef),
  shadowed: z.array(routeRef),
  way: z.array(z.string()),
  otherWays: z.array(z.array(z.string())),
  leavesBy: z.string().nullable(),
  seenAs: z.array(z.string()),
  cause: cause.extend({ inner: cause.optional() }).nullable(),
})
export const hopsAnswer = z
  .object({
    subnet: z.string(),
    kinds: z.array(z.object({ hosts: z.array(z.string()), publicAddress: z.boolean(), tags: z.array(z.string()), ranges: z.array(hopRange) })),
  })
  .meta({ id: 'NextHops', description: 'The effective next hops of a subnet: the whole address space by way out' })

const packetBox = z.object({
  src: z.string(),
  dst: z.string(),
  protocols: z.array(z.union([z.string(), z.int()])).nullable(),
  srcPorts: z.string().nullable(),
  dstPorts: z.string().nullable(),
})
export const waysInAnswer = z
  .object({
    subnet: z.string(),
    ways: z.array(
      z.object({ from: z.string(), to: z.string(), ways: z.array(z.array(z.string())), packets: z.array(packetBox), packet, rules: z.array(z.string()) }),
    ),
    jumps: z.array(z.object({ host: z.string(), from: z.array(z.string()), opens: z.array(z.string()) })),
    idle: z.array(z.object({ set: z.string(), rule: z.string(), why: z.string() })),
  })
  .meta({ id: 'WaysIn', description: 'Who can reach the hosts of a subnet, on what, through what' })
