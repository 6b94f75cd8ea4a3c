/** What stands on the map, from the outside to the networks: a column of the drawing each. */
export const MAP_COLUMNS = ['outside', 'doors', 'between', 'networks'] as const
export type MapColumn = (typeof MAP_COLUMNS)[number]

export interface MapSubnet {
  readonly ref: string
  readonly zone: string
  readonly role: string | null
}

export interface MapNode {
  /** `section/id`, or `internet`; `alike/id` for networks that are alike, by the first of them. */
  readonly ref: string
  /** What is written on it. */
  readonly name: string
  readonly column: MapColumn
  /** What it is, such as `gateway` or `network`. */
  readonly kind: string
  readonly about: string
  readonly up: boolean
  /** A network's subnets, where it is unfolded; null where it is one mark, or no network. */
  readonly subnets: readonly MapSubnet[] | null
  /**
   * Everything this mark stands for beside itself: a folded network's subnets and what stands at
   * it.
   */
  readonly stands: readonly string[]
}

export interface MapEdge {
  readonly from: string
  readonly to: string
  /** What joins them, as `section/id`, where that is no mark of its own, such as a peering. */
  readonly by: string | null
}

export interface EstateGraph {
  readonly nodes: readonly MapNode[]
  readonly edges: readonly MapEdge[]
  /** Whether networks are folded unless they are opened. */
  readonly folds: boolean
}
