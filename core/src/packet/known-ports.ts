import type { Range } from '../address/ranges'

/** What a port is known for. */
export type PortKind = 'administration' | 'database' | 'other'

/** Ports of remote administration, by the registry of IANA and by custom. */
export const ADMINISTRATION: ReadonlySet<number> = new Set([
  22, 23, 135, 139, 445, 2375, 3389, 5900, 5985, 5986, 6443, 10250,
])
/** Ports of databases, likewise. */
export const DATABASES: ReadonlySet<number> = new Set([
  1433, 1521, 2181, 3306, 5432, 5984, 6379, 7000, 9042, 9200, 11211, 27017,
])

/** The gravest kind among some ports: administration, then databases. */
export function portKind(ports: Pick<Range, 'from' | 'to'>): PortKind {
  const has = (known: ReadonlySet<number>): boolean =>
    [...known].some((port) => ports.from <= port && port <= ports.to)
  return has(ADMINISTRATION) ? 'administration' : has(DATABASES) ? 'database' : 'other'
}
