import { estateJsonSchema } from '@salt-trail/core'

/** The format as a JSON Schema, for editors and other programs. */
export default defineEventHandler((event) => {
  setResponseHeader(event, 'content-type', 'application/schema+json')
  return estateJsonSchema(new URL('/schemas/salt-trail-1.json', getRequestURL(event)).href)
})
