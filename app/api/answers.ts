import type { z } from 'zod'
import type { ROUTES } from '../../contract/routes'

type Routes = typeof ROUTES
type Method = 'get' | 'post' | 'put' | 'delete'

/** What a route answers, inferred from its schema. */
export type Answer<P extends keyof Routes, M extends Method = 'get'> =
  Routes[P] extends Record<M, { readonly answer: infer S extends z.ZodType }> ? z.output<S> : never

/** What is said of one revision, by the last part of its path. */
export type RevisionPath = keyof Routes extends infer P
  ? P extends `${OfRevision}/${infer Last}`
    ? Last
    : never
  : never

type OfRevision = '/api/estates/{estate}/{revision}'

/** The paths of a revision that are asked with a body. */
export type QuestionPath = 'trace' | 'cases' | 'proposals' | 'prove'

/** What a path of a revision answers; to a question where it takes one. */
export type RevisionAnswer<P extends RevisionPath> = Answer<
  `${OfRevision}/${P}`,
  P extends QuestionPath ? 'post' : 'get'
>

export type Outline = RevisionAnswer<'outline'>
export type SubnetOutline = Outline['subnets'][number]
export type RevisionInfo = Outline['revision']
export type RevisionHistory = Answer<'/api/estates/{estate}/history'>[number]
export type EstateInfo = Answer<'/api/estates'>[number]
export type Analysis = RevisionAnswer<'analysis'>
export type ExpectationState = RevisionAnswer<'expectations'>['expectations'][number]
export type FindingsPage = RevisionAnswer<'findings'>
export type ListedFinding = FindingsPage['findings'][number]
export type RootCausesPage = RevisionAnswer<'root-causes'>
export type ListedRootCause = RootCausesPage['rootCauses'][number]
/** What is said when something is accepted. */
export type Acceptance = Omit<NonNullable<ListedFinding['accepted']>, 'fingerprint' | 'author'>
export type Saved = Answer<'/api/estates', 'post'>

export type Draft = Answer<'/api/estates/{estate}/drafts/{draft}'>
export type DraftInfo = Answer<'/api/estates/{estate}/drafts'>[number]
export type DraftEdited = Answer<'/api/estates/{estate}/drafts/{draft}/changes', 'post'>
export type DraftPlan = Answer<'/api/estates/{estate}/drafts/{draft}/plan'>
export type ObjectPage = RevisionAnswer<'object'>
export type Objects = RevisionAnswer<'objects'>

export type Session = Answer<'/api/session'>
export type OwnAccount = Answer<'/api/account'>
export type NewToken = Answer<'/api/account/tokens', 'post'>
export type ListedAccount = Answer<'/api/accounts'>[number]
export type Link = Answer<'/api/accounts', 'post'>
export type Person = Answer<'/api/estates/{estate}/people'>[number]
export type RecordPage = Answer<'/api/record'>
export type Role = EstateInfo['role']
