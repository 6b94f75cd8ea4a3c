import { config } from '../config'
import { isKnownHost } from '../hosts'

/**
 * A page elsewhere can let its own name resolve to this machine; its requests then look as if they
 * came from here, but name that other host. They are refused before anything else, reads too.
 */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('request', (event) => {
    const { req, res } = event.node
    const { SALT_TRAIL_HOSTS, SALT_TRAIL_ADDRESS } = config()
    const own = SALT_TRAIL_ADDRESS === undefined ? [] : [new URL(SALT_TRAIL_ADDRESS).hostname]
    if (isKnownHost(req.headers.host, [...SALT_TRAIL_HOSTS, ...own])) return
    const message =
      'this server is not asked under that host name; SALT_TRAIL_HOSTS names those it answers to'
    const data = { code: 'unknown-host', message }
    res.writeHead(421, { 'content-type': 'application/json' })
    res.end(JSON.stringify({ statusCode: 421, message, data }))
  })
})
