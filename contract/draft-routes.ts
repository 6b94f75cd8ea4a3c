import {
  createdDraftAnswer,
  draftAnswer,
  draftChangeBody,
  draftParams,
  draftsAnswer,
  draftTextBody,
  draftWordsBody,
  editedAnswer,
  foresightAnswer,
  foresightBody,
  newDraftBody,
  patchAnswer,
  planAnswer,
  saveDraftBody,
  savedDraftAnswer,
  undoBody,
} from './drafts'
import { estateParams } from './requests'

/** The routes of drafts. */
export const DRAFT_ROUTES = {
  '/api/estates/{estate}/drafts': {
    get: {
      summary: 'The drafts of an estate',
      path: estateParams,
      answer: draftsAnswer,
      refuses: [404],
    },
    post: {
      summary: 'Start a draft, with a first change or without',
      path: estateParams,
      body: newDraftBody,
      answer: createdDraftAnswer,
      status: 201,
      refuses: [404, 422, 507],
    },
  },
  '/api/estates/{estate}/drafts/{draft}': {
    get: {
      summary: 'A draft with its changes',
      path: draftParams,
      answer: draftAnswer,
      refuses: [404],
    },
    put: {
      summary: 'Name it, note something, pin questions',
      path: draftParams,
      body: draftWordsBody,
      answer: createdDraftAnswer,
      refuses: [404, 507],
    },
    delete: {
      summary: 'Throw a draft away',
      path: draftParams,
      answer: createdDraftAnswer,
      refuses: [404],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/changes': {
    post: {
      summary: 'Make a change, after all that others made meanwhile',
      path: draftParams,
      body: draftChangeBody,
      answer: editedAnswer,
      refuses: [404, 409, 422, 507],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/undo': {
    post: {
      summary: 'Take a change back',
      path: draftParams,
      body: undoBody,
      answer: editedAnswer,
      refuses: [404, 409, 422, 507],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/redo': {
    post: {
      summary: 'Make what was undone last stand again',
      path: draftParams,
      answer: editedAnswer,
      refuses: [404, 409, 422, 507],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/rebase': {
    post: {
      summary: 'Put a draft on the newest revision',
      path: draftParams,
      answer: editedAnswer,
      refuses: [404, 409, 422, 507],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/texts': {
    put: {
      summary: 'Keep what is being typed and is no change yet',
      path: draftParams,
      body: draftTextBody,
      answer: createdDraftAnswer,
      refuses: [404, 507],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/plan': {
    get: {
      summary: 'The order in which a draft can be carried out',
      path: draftParams,
      answer: planAnswer,
      refuses: [404, 409, 422],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/foresight': {
    post: {
      summary: 'What a draft brings about, with what is being edited',
      path: draftParams,
      body: foresightBody,
      answer: foresightAnswer,
      refuses: [404, 409, 422],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/patch': {
    get: {
      summary: 'The changes of a draft as a JSON Patch',
      path: draftParams,
      answer: patchAnswer,
      refuses: [404, 409],
    },
  },
  '/api/estates/{estate}/drafts/{draft}/revision': {
    post: {
      summary: 'Save a draft as the next revision, whole or not at all',
      path: draftParams,
      body: saveDraftBody,
      answer: savedDraftAnswer,
      status: 201,
      refuses: [404, 409, 422, 507],
    },
  },
} as const
