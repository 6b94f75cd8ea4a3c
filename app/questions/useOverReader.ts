import { hasServiceName, readOver, type Over } from './over'
import { loadPortNames, usePortNames } from './port-names'

/**
 * Reads what a question goes over, for a view: null while the names of services are fetched, which
 * only texts that need them wait for.
 */
export function useOverReader(): (text: string) => Over | string | null {
  const names = usePortNames()
  return (text) =>
    names.value === null && hasServiceName(text) ? null : readOver(text, names.value)
}

/** The same where something is done only once it is read. */
export const overRead = async (text: string): Promise<Over | string> =>
  readOver(text, hasServiceName(text) ? await loadPortNames() : null)
