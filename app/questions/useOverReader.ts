import { hasServiceName, readOver, type Over } from './over'
import { knownPortNames, loadPortNames } from './port-names'

/**
 * Reads what a question goes over, for a view: null while the names of services are fetched, which
 * only texts that need them wait for.
 */
export function useOverReader(): (text: string) => Over | string | null {
  const names = knownPortNames()
  return (text) => {
    if (names.value !== null || !hasServiceName(text)) return readOver(text, names.value)
    void loadPortNames()
    return null
  }
}

/** The same where something is done only once it is read. */
export const overRead = async (text: string): Promise<Over | string> =>
  readOver(text, hasServiceName(text) ? await loadPortNames() : null)
