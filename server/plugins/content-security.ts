import { createHash } from 'node:crypto'

const SCRIPT = /<script(?![^>]*\bsrc=)([^>]*)>([\s\S]*?)<\/script>/g

/**
 * A strict content security policy: only this application's own files, and the few inline scripts
 * of its page by their hashes.
 */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('render:response', (response) => {
    if (typeof response.body !== 'string') return
    const hashes = [...response.body.matchAll(SCRIPT)].map(
      ([, , text]) => `'sha256-${createHash('sha256').update(text!).digest('base64')}'`,
    )
    const { 'x-powered-by': _, ...headers } = response.headers ?? {}
    response.headers = {
      ...headers,
      'content-security-policy': [
        "default-src 'self'",
        `script-src 'self' ${[...new Set(hashes)].join(' ')}`,
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data:",
        "object-src 'none'",
        "base-uri 'none'",
        "frame-ancestors 'none'",
        "form-action 'self'",
        "connect-src 'self'",
        "worker-src 'self'",
      ].join('; '),
    }
  })
})
