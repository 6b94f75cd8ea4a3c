import type { FindingFamily } from '@salt-trail/core'

export const FAMILIES: readonly { readonly family: FindingFamily; readonly title: string; readonly about: string }[] = [
  { family: 'leak', title: 'Leaks', about: 'traffic goes a way it should not' },
  { family: 'hole', title: 'Black holes', about: 'traffic is lost' },
  { family: 'weak', title: 'Weak spots', about: 'it works, but not as it seems' },
]
