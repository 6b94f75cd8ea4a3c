import type { Progress } from '@salt-trail/core'

/** Reports progress on stderr once a run takes long. */
export function progressOnStderr(): Progress {
  const start = performance.now()
  return (about, done, of) => {
    if (performance.now() - start > 2000) process.stderr.write(`${done} of ${of}: ${about}\n`)
  }
}
