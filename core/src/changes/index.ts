/**
 * A change of an estate is a value; these functions carry all that is done with one (design part
 * 9.1).
 */
export { apply, type Applied } from './apply'
export { complete } from './complete'
export { between, changeBetween } from './difference'
export { invert } from './invert'
export { merge } from './merge'
export type { Change, ChangeFailure, Failed, Operation } from './operation'
export { pointer } from './pointer'
export { readChange } from './read'
export { rebase, type Conflict, type Rebased } from './rebase'
