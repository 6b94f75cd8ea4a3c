import { moveAnswer, moveBody, waysOutAnswer, waysOutQuery } from './moves'
import {
  objectAnswer,
  objectHistoryAnswer,
  objectQuery,
  objectsAnswer,
  objectsQuery,
  searchAnswer,
  searchQuery,
} from './objects'
import { estateParams, revisionParams } from './requests'

/** The routes of objects, and of the moves that are made with them. */
export const OBJECT_ROUTES = {
  '/api/estates/{estate}/object-history': {
    get: {
      summary: 'In which of the newest revisions an object came, changed or went',
      path: estateParams,
      query: objectQuery,
      answer: objectHistoryAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/objects': {
    get: {
      summary: 'The ids of what stands in the estate',
      path: revisionParams,
      query: objectsQuery,
      answer: objectsAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/object': {
    get: {
      summary: 'One object: its text, what it refers to, what refers to it',
      path: revisionParams,
      query: objectQuery,
      answer: objectAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/search': {
    get: {
      summary: 'Objects by a part of their names, and who has or holds an address',
      path: revisionParams,
      query: searchQuery,
      answer: searchAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/moves': {
    post: {
      summary: 'The change of a ready-made move; nothing is changed',
      path: revisionParams,
      body: moveBody,
      answer: moveAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/{revision}/ways-out': {
    get: {
      summary: 'Ways out for some subnets, side by side',
      path: revisionParams,
      query: waysOutQuery,
      answer: waysOutAnswer,
      refuses: [404],
    },
  },
} as const
