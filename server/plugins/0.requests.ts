import { randomUUID } from 'node:crypto'
import { log } from '../log'

/** Every request has an id, which its answer, its line in the log and its error name. */
export default defineNitroPlugin((nitro) => {
  nitro.hooks.hook('request', (event) => {
    const id = randomUUID().slice(0, 8)
    event.context.requestId = id
    const { req, res } = event.node
    res.setHeader('x-request-id', id)
    const begun = performance.now()
    res.once('close', () => {
      if (!event.path.startsWith('/api/')) return
      const path = event.path.split('?')[0]
      const milliseconds = Math.round(performance.now() - begun)
      const status = res.writableEnded ? res.statusCode : 'left'
      log.debug({ id, method: req.method, path, status, milliseconds }, 'request')
    })
  })
})
