/**
 * What every answer says to browsers, files and scripts of workers included: nothing of it is used
 * by another page, it uses nothing of one, and it is what it says it is.
 */
const HEADERS = {
  'content-security-policy':
    "default-src 'self'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'",
  'cross-origin-embedder-policy': 'require-corp',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'permissions-policy': 'camera=(), geolocation=(), microphone=(), payment=(), usb=()',
  'referrer-policy': 'same-origin',
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
}

export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('request', (event) => {
    for (const [name, value] of Object.entries(HEADERS)) event.node.res.setHeader(name, value)
  })
})
