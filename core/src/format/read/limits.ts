/** How much a document may hold; past one of these it is refused with the limit's name. */
export interface Limits {
  /** Bytes of UTF-8 of all files together. */
  readonly bytes: number
  readonly subnets: number
  /** Routes of all route tables, transits and firewalls. */
  readonly routes: number
  /** Rules of all rule sets, estate rules and firewall policies. */
  readonly rules: number
  /** YAML aliases expanded, in all files together. */
  readonly aliases: number
  /** How deep maps and lists may be nested. */
  readonly depth: number
}

export const DEFAULT_LIMITS: Limits = {
  bytes: 64 * 1024 * 1024,
  subnets: 200_000,
  routes: 2_000_000,
  rules: 2_000_000,
  aliases: 1_000,
  depth: 64,
}
