import { EXIT_COLUMNS, type ExitRow, type ExitWay, type MarkedRow } from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, cause, countUpTo, from, text } from './parts'

const exitWay = ofCore<ExitWay>(
  z.object({
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
  }),
)

const cellFinding = z.object({
  fingerprint: z.string(),
  family: z.enum(['leak', 'hole', 'weak']),
  sentence: z.string(),
  anchor: z.string(),
  members: z.array(z.string()),
  question: z.object({ from: z.string(), to: z.string() }).nullable(),
})

/** What a row of the matrix is: a subnet, and its ways in each column. */
const columns = {
  subnet: z.string(),
  internet: z.array(exitWay),
  services: z.array(exitWay),
  sites: z.array(exitWay),
  otherNetworks: z.array(exitWay),
  sameNetwork: z.array(exitWay),
}

const columnFindings = z.partialRecord(z.enum(EXIT_COLUMNS), z.array(cellFinding))
export const exitsAnswer = z
  .object({
    revision: z.int(),
    milliseconds: z.number(),
    total: z.int(),
    rows: z.array(
      ofCore<MarkedRow>(
        z.object({
          ...columns,
          findings: columnFindings,
          entering: columnFindings,
          zone: z.string().nullable(),
        }),
      ),
    ),
  })
  .meta({ id: 'Exits', description: 'By what the traffic of every subnet leaves' })
export const exitsQuery = z.object({ from, count: countUpTo(2000) }).meta({ id: 'ExitsQuery' })
const MOST_ROWS_OPENED = 100
const someSubnets = text
  .max(20000)
  .transform((text) => text.split(','))
  .pipe(z.array(z.string().min(1)).max(MOST_ROWS_OPENED))
  .meta({ description: `Up to ${MOST_ROWS_OPENED} subnets, with commas between` })
export const MOST_COLUMNS_OPENED = 40
export const membersQuery = z
  .object({
    column: z.enum(['services', 'sites', 'otherNetworks']),
    subnets: someSubnets,
    members: text
      .max(10000)
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
export const entriesAnswer = z
  .object({
    revision: z.int(),
    rows: z.array(ofCore<ExitRow>(z.object(columns))),
  })
  .meta({
    id: 'Entries',
    description: 'By what traffic enters some subnets, from each kind of place: routes alone',
  })
export const membersAnswer = z
  .object({
    revision: z.int(),
    column: z.string(),
    members: z.array(z.string()),
    rows: z.array(z.object({ subnet: z.string(), cells: z.array(z.array(exitWay)) })),
  })
  .meta({ id: 'Members', description: 'What a column of the matrix opens into, for some rows' })
