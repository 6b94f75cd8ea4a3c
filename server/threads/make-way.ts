import { setPriority } from 'node:os'

/**
 * Lets all that is short go before the thread that calls this, for as long as it lives: the server's
 * own thread, which passes everything on, and the database. On Linux a priority is a thread's, not
 * its process's; elsewhere, and where it may not be set, nothing changes.
 */
export function makeWay(niceness: number): void {
  if (process.platform !== 'linux') return
  try {
    setPriority(0, niceness)
  } catch {
    // What is slower then is still right.
  }
}

/**
 * Of what answers somebody who waits for it. Each step costs about a fifth of a core's time where
 * something else wants it, too; more than a few would starve it on a machine with other work.
 */
export const ASKED = 2
/** Of what takes long anyway. */
export const LONG = 5
