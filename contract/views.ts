import {
  MAP_COLUMNS,
  SEVERITIES,
  type EstateGraph,
  type ExpectationResult,
  type NetworkSpace,
  type SeenAs,
} from '@salt-trail/core'
import { z } from 'zod'
import { ofCore, cause, packet, role, text } from './parts'
import { problemsAnswer, revisionInfo } from './requests'

export const outlineAnswer = z
  .object({
    slug: z.string(),
    name: z.string(),
    role: role.meta({ description: 'What whoever asks may do with it' }),
    revision: revisionInfo,
    head: z.int(),
    draft: z
      .object({
        id: z.int(),
        version: z.int(),
        name: z.string(),
        kind: z.enum(['change', 'outage']),
      })
      .nullable()
      .meta({ description: 'The draft whose state this is; revision is its base then' }),
    counts: z.record(z.string(), z.int()),
    networks: z.array(
      z.object({
        id: z.string(),
        title: z.string().nullable(),
        ranges: z.array(z.string()),
        behaviour: z.string(),
        region: z.string().nullable(),
        hosts: z.int().meta({ description: 'How many hosts are up and have an address' }),
        like: z.int().meta({
          description:
            'Networks with the same number are alike but for names and ranges; -1 if not known',
        }),
      }),
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
        like: z.int().meta({
          description:
            'Subnets of one network with the same number are alike but for names and ranges',
        }),
      }),
    ),
    unlike: z
      .object({
        networks: z.record(z.string(), z.array(z.string())),
        subnets: z.record(z.string(), z.array(z.string())),
      })
      .meta({
        description:
          'By their number: what tells networks, and subnets, from the many they are otherwise like',
      }),
    members: z.object({
      services: z.array(z.string()),
      sites: z.array(z.string()),
      otherNetworks: z.array(z.string()),
    }),
    ends: z.array(
      z.object({ end: z.string(), id: z.string(), about: z.string(), home: z.string().optional() }),
    ),
  })
  .meta({
    id: 'Outline',
    description: 'What a revision holds, as far as views and completion need it',
  })

export const refusalAnswer = z
  .object({
    statusCode: z.int(),
    message: z.string(),
    data: z.object({ code: z.string(), message: z.string() }).loose(),
  })
  .meta({ id: 'Refusal', description: 'Why a request was refused, and what to do' })

const expectationState = ofCore<Omit<ExpectationResult, 'trace'>>(
  z.object({
    id: z.string(),
    must: z.string(),
    says: z.string(),
    state: z.enum(['holds', 'broken', 'empty']),
    sentence: z.string(),
    from: z.string().nullable(),
    to: z.string().nullable(),
    packet: packet.nullable(),
    because: z.string().nullable(),
  }),
)

const counts = <N extends string>(...names: readonly N[]) =>
  z.object(Object.fromEntries(names.map((name) => [name, z.int()])) as Record<N, z.ZodInt>)
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
        rootCauses: z.int(),
        accepted: z.int(),
        expectations: counts('holds', 'broken', 'empty'),
      })
      .optional(),
  })
  .meta({
    id: 'Analysis',
    description: 'How far the analysis of a revision is, and how much it found',
  })
export const expectationsAnswer = z
  .object({ revision: z.int(), expectations: z.array(expectationState) })
  .meta({ id: 'Expectations' })
export const provedAnswer = problemsAnswer
  .extend({ expectations: z.array(expectationState).nullable() })
  .meta({
    id: 'Proved',
    description:
      'What became of expectations that are not saved; null where their text cannot be read',
  })
export const onlookerQuery = z
  .object({
    to: text
      .min(1)
      .max(200)
      .meta({ description: 'Who looks: `internet`, `party:ID`, an address or a prefix' }),
  })
  .meta({ id: 'OnlookerQuery' })
const seenCause = cause.nullable()
export const seenAsAnswer = ofCore<SeenAs & { readonly revision: number; readonly to: string }>(
  z
    .object({
      revision: z.int(),
      to: z.string(),
      allowlist: z.array(z.string()).nullable(),
      unused: z.array(z.string()),
      addresses: z.array(
        z.object({
          address: z.string().nullable(),
          by: z.string().nullable(),
          lasting: z.enum([
            'reserved',
            'kept',
            'draining',
            'automatic',
            'with-host',
            'unforeseeable',
            'own',
          ]),
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
    .meta({
      id: 'SeenAs',
      description: 'By which addresses somebody outside sees the subnets, and how long these last',
    }),
)
export const spaceAnswer = z
  .object({
    revision: z.int(),
    networks: z.array(
      ofCore<NetworkSpace>(
        z.object({
          network: z.string(),
          ranges: z.array(
            z.object({
              prefix: z.string(),
              addresses: z.string(),
              carvedShare: z.number(),
              carved: z.array(
                z.object({
                  prefix: z.string(),
                  subnet: z.string(),
                  taken: z.int(),
                  usable: z.string(),
                }),
              ),
              free: z.array(z.string()),
              moreFree: z.int(),
            }),
          ),
          collisions: z.array(
            z.object({ prefix: z.string(), with: z.string(), other: z.string() }),
          ),
        }),
      ),
    ),
  })
  .meta({
    id: 'Space',
    description:
      'What the networks’ ranges are carved into, what is free, and what else has the same addresses',
  })
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
export const mapAnswer = ofCore<EstateGraph & { readonly revision: number }>(
  z
    .object({
      revision: z.int(),
      folds: z.boolean(),
      nodes: z.array(
        z.object({
          ref: z.string(),
          name: z.string(),
          column: z.enum(MAP_COLUMNS),
          kind: z.string(),
          about: z.string(),
          up: z.boolean(),
          subnets: z
            .array(z.object({ ref: z.string(), zone: z.string(), role: z.string().nullable() }))
            .nullable(),
          stands: z.array(z.string()),
        }),
      ),
      edges: z.array(z.object({ from: z.string(), to: z.string(), by: z.string().nullable() })),
    })
    .meta({ id: 'Map', description: 'What stands in the estate and what joins it' }),
)
