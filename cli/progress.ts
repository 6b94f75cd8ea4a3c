import type { Progress } from '@salt-trail/core'

/** Tells on stderr what is looked at, once it takes long enough to wonder. */
export function progressOnStderr(): Progress {
  const start = performance.now()
  return (about, done, of) => {
    if (performance.now() - start > 2000) process.stderr.write(`${done} of ${of}: ${about}\n`)
  }
}
