import type { EndChoice } from '~/questions/question-text'

export interface RevisionInfo {
  readonly number: number
  readonly createdAt: string
  readonly author: string
  readonly origin: string
  readonly note: string
}

export interface Outline {
  readonly slug: string
  readonly name: string
  readonly revision: RevisionInfo
  readonly head: number
  readonly counts: Record<string, number>
  readonly networks: readonly {
    id: string
    title: string | null
    ranges: string[]
    behaviour: string
    region: string | null
  }[]
  readonly subnets: readonly SubnetOutline[]
  readonly members: {
    readonly services: readonly string[]
    readonly sites: readonly string[]
    readonly otherNetworks: readonly string[]
  }
  readonly ends: readonly EndChoice[]
}

export interface SubnetOutline {
  readonly id: string
  readonly title: string | null
  readonly network: string
  readonly ranges: string[]
  readonly zone: string | null
  readonly region: string | null
  readonly role: string | null
  readonly table: string | null
  readonly ownTable: boolean
}
