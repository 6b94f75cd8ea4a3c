import {
  behindAnswer,
  behindQuery,
  exposureAnswer,
  exposureQuery,
  talksAnswer,
  talksQuery,
} from './exposure'
import { revisionParams } from './requests'

/** The routes of what the whole estate lets in, and of who can talk to whom. */
export const EXPOSURE_ROUTES = {
  '/api/estates/{estate}/{revision}/exposure': {
    get: {
      summary: 'What is reached from outside, in the whole estate',
      path: revisionParams,
      query: exposureQuery,
      answer: exposureAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/behind': {
    get: {
      summary: 'What a host that is reached from outside opens up behind it',
      path: revisionParams,
      query: behindQuery,
      answer: behindAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/talks': {
    get: {
      summary: 'Whom a network can talk to, and on what',
      path: revisionParams,
      query: talksQuery,
      answer: talksAnswer,
      refuses: [404],
    },
  },
} as const
