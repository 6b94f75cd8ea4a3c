import { z } from 'zod'
import {
  acceptanceAnswer,
  acceptanceBody,
  acceptanceParams,
  changesAnswer,
  casesBody,
  checkBody,
  deleteEstateBody,
  estateInfo,
  estateParams,
  exampleParams,
  newEstateBody,
  newRevisionBody,
  notationQuery,
  problemsAnswer,
  proveBody,
  questionBody,
  questionsBody,
  renameBody,
  revisionInfo,
  revisionParams,
  savedAnswer,
} from './requests'
import {
  findingsAnswer,
  findingsQuery,
  findingsSinceAnswer,
  rootCausesAnswer,
  rootCausesQuery,
} from './findings'
import {
  analysisAnswer,
  expectationsAnswer,
  mapAnswer,
  mapQuery,
  onlookerQuery,
  outlineAnswer,
  provedAnswer,
  seenAsAnswer,
  spaceAnswer,
} from './views'
import { ACCESS_ROUTES } from './access-routes'
import { DRAFT_ROUTES } from './draft-routes'
import { differenceAnswer, historyAnswer, sinceQuery } from './revisions'
import { hopsAnswer, subnetQuery, waysInAnswer } from './subnets'
import { EXPOSURE_ROUTES } from './exposure-routes'
import { OBJECT_ROUTES } from './object-routes'
import { proposalsAnswer, proposalsBody } from './proposals'
import { casesAnswer, traceAnswer } from './traces'
import {
  entriesAnswer,
  entriesQuery,
  exitsAnswer,
  exitsQuery,
  membersAnswer,
  membersQuery,
} from './exits'

/** What a request may be refused with, and what that says. */
export const REFUSALS = {
  400: 'The request is malformed',
  401: 'Nobody is signed in',
  403: 'Who is signed in may not do this',
  404: 'There is no such thing',
  409: 'Somebody saved a newer revision in the meantime',
  413: 'The request is too large',
  429: 'Too many attempts; the answer says when to try again',
  422: 'The content cannot be taken; the answer says why',
  507: 'There is no room: the disk is full, or reading the files takes more memory than it may',
  503: 'The database is not there, or the analysis failed or was stopped',
} as const

export type Refusal = keyof typeof REFUSALS

export interface Described {
  readonly summary: string
  readonly path?: z.ZodObject
  readonly query?: z.ZodObject
  readonly body?: z.ZodType
  readonly answer: z.ZodType
  readonly status?: 200 | 201
  /** Statuses this route refuses with, beside 400, 503, and those of its right. */
  readonly refuses?: readonly Refusal[]
}

const anyJson = z.record(z.string(), z.unknown())
const files = z.array(z.object({ name: z.string(), text: z.string() }))

/** Every route of the API. A test holds this against the files under server/api. */
export const ROUTES = {
  '/api/check': {
    post: {
      summary: 'Everything wrong with some estate files; nothing is saved',
      body: checkBody,
      answer: problemsAnswer,
    },
  },
  '/api/estates': {
    get: { summary: 'All estates with their newest revision', answer: z.array(estateInfo) },
    post: {
      summary: 'Start an estate from files',
      body: newEstateBody,
      answer: savedAnswer,
      status: 201,
      refuses: [413, 422, 507],
    },
  },
  '/api/estates/{estate}': {
    put: {
      summary: 'Rename an estate; that is a revision',
      path: estateParams,
      body: renameBody,
      answer: savedAnswer.omit({ warnings: true }),
      refuses: [404, 409, 507],
    },
    delete: {
      summary: 'Delete an estate with everything that was saved of it',
      path: estateParams,
      body: deleteEstateBody,
      answer: z.object({ slug: z.string() }),
      refuses: [404, 422],
    },
  },
  '/api/estates/{estate}/revisions': {
    get: {
      summary: 'The revisions of an estate, newest first',
      path: estateParams,
      answer: z.array(revisionInfo),
      refuses: [404],
    },
    post: {
      summary: 'Save files as the next revision, whole or not at all',
      path: estateParams,
      body: newRevisionBody,
      answer: savedAnswer,
      status: 201,
      refuses: [404, 409, 413, 422, 507],
    },
  },
  '/api/estates/{estate}/history': {
    get: {
      summary: 'The revisions with how much is wrong with each',
      path: estateParams,
      answer: historyAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/compare': {
    post: {
      summary: 'What files would change against the newest revision',
      path: estateParams,
      body: checkBody,
      answer: changesAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/acceptances/{fingerprint}': {
    put: {
      summary: 'Live with a finding, and say why',
      path: acceptanceParams,
      body: acceptanceBody,
      answer: acceptanceAnswer,
      refuses: [404, 507],
    },
    delete: {
      summary: 'Take that back',
      path: acceptanceParams,
      answer: z.object({ fingerprint: z.string() }),
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/document': {
    get: {
      summary: 'A revision in the format',
      path: revisionParams,
      query: notationQuery,
      answer: anyJson,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/files': {
    get: {
      summary: 'The files a revision was brought in with',
      path: revisionParams,
      answer: files,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/outline': {
    get: {
      summary: 'What a revision holds',
      path: revisionParams,
      answer: outlineAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/analysis': {
    get: {
      summary: 'How far the analysis of a revision is; begins it where it never was',
      path: revisionParams,
      answer: analysisAnswer,
      refuses: [404],
    },
    post: {
      summary: 'Analyse a revision again after a failure or a stop',
      path: revisionParams,
      answer: analysisAnswer,
      refuses: [404],
    },
    delete: {
      summary: 'Stop the analysis of a revision',
      path: revisionParams,
      answer: analysisAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/exits': {
    get: {
      summary: 'By what the traffic of every subnet leaves; waits for the analysis',
      path: revisionParams,
      query: exitsQuery,
      answer: exitsAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/entries': {
    get: {
      summary: 'By what traffic enters some subnets',
      path: revisionParams,
      query: entriesQuery,
      answer: entriesAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/members': {
    get: {
      summary: 'What a column of the matrix opens into, for some rows',
      path: revisionParams,
      query: membersQuery,
      answer: membersAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/findings': {
    get: {
      summary: 'What is wrong, the most severe first; waits for the analysis',
      path: revisionParams,
      query: findingsQuery,
      answer: findingsAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/difference': {
    get: {
      summary: 'What differs from another revision',
      path: revisionParams,
      query: sinceQuery,
      answer: differenceAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/root-causes': {
    get: {
      summary: 'What decides the findings: what has to change for them to go',
      path: revisionParams,
      query: rootCausesQuery,
      answer: rootCausesAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/findings-since': {
    get: {
      summary: 'Findings that came and went since another revision; waits for both analyses',
      path: revisionParams,
      query: sinceQuery,
      answer: findingsSinceAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/expectations': {
    get: {
      summary: 'What became of the expectations; waits for the analysis',
      path: revisionParams,
      answer: expectationsAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/prove': {
    post: {
      summary: 'Prove expectations that are not saved',
      path: revisionParams,
      body: proveBody,
      answer: provedAnswer,
      refuses: [404, 422],
    },
  },
  '/api/estates/{estate}/{revision}/hops': {
    get: {
      summary: 'The effective next hops of a subnet',
      path: revisionParams,
      query: subnetQuery,
      answer: hopsAnswer,
      refuses: [400, 404],
    },
  },
  '/api/estates/{estate}/{revision}/map': {
    get: {
      summary: 'What stands in the estate and what joins it',
      path: revisionParams,
      query: mapQuery,
      answer: mapAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/seen-as': {
    get: {
      summary: 'As whom somebody outside sees the subnets',
      path: revisionParams,
      query: onlookerQuery,
      answer: seenAsAnswer,
      refuses: [404, 422],
    },
  },
  '/api/estates/{estate}/{revision}/space': {
    get: {
      summary: 'What the networks’ ranges are carved into',
      path: revisionParams,
      answer: spaceAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/ways-in': {
    get: {
      summary: 'Who can reach the hosts of a subnet',
      path: revisionParams,
      query: subnetQuery,
      answer: waysInAnswer,
      refuses: [400, 404],
    },
  },
  ...EXPOSURE_ROUTES,
  '/api/estates/{estate}/{revision}/trace': {
    post: {
      summary: 'Answer one question',
      path: revisionParams,
      body: questionBody,
      answer: traceAnswer,
      refuses: [404, 422],
    },
  },
  '/api/estates/{estate}/{revision}/cases': {
    post: {
      summary: 'Answer a question for every family and for many ports at once',
      path: revisionParams,
      body: casesBody,
      answer: casesAnswer,
      refuses: [404, 422],
    },
  },
  '/api/estates/{estate}/{revision}/proposals': {
    post: {
      summary: 'What would mend a finding or a faulty question, tried against the whole estate',
      path: revisionParams,
      body: proposalsBody,
      answer: proposalsAnswer,
      refuses: [404, 422, 503],
    },
  },
  '/api/estates/{estate}/{revision}/traces': {
    post: {
      summary: 'Answer many questions, in order',
      path: revisionParams,
      body: questionsBody,
      answer: z.array(z.union([traceAnswer, anyJson])),
      refuses: [404],
    },
  },
  ...ACCESS_ROUTES,
  ...DRAFT_ROUTES,
  ...OBJECT_ROUTES,
  '/api/examples': {
    get: {
      summary: 'Small estates to learn from',
      answer: z.array(z.object({ name: z.string(), teaches: z.string() })),
    },
  },
  '/api/examples/{example}': {
    get: {
      summary: 'One example as a file',
      path: exampleParams,
      answer: z.object({ name: z.string(), text: z.string() }),
      refuses: [404],
    },
  },
  '/api/openapi': { get: { summary: 'This description', answer: anyJson } },
} as const satisfies Record<string, Partial<Record<'get' | 'post' | 'put' | 'delete', Described>>>
