import type { Server } from 'node:http'

/**
 * Longer than any client or proxy holds an idle connection, in milliseconds: a client that uses one
 * again must not find it closed in that moment.
 */
const IDLE = 65_000

/** A request that is not there as a whole after so long is ended: slow bodies hold nothing. */
const WHOLE_REQUEST = 120_000

export default defineNitroPlugin((nitro) => {
  const seen = new WeakSet<Server>()
  nitro.hooks.hook('request', (event) => {
    const { server } = event.node.req.socket as unknown as { server?: Server }
    if (!server || seen.has(server)) return
    seen.add(server)
    server.keepAliveTimeout = IDLE
    server.requestTimeout = WHOLE_REQUEST
    server.headersTimeout = IDLE + 1_000
  })
})
