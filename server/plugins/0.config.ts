import { config, ConfigError } from '../config'

/** A server with a setting it cannot use does not start, and says which one it is. */
export default defineNitroPlugin(() => {
  try {
    config()
  } catch (error) {
    if (!(error instanceof ConfigError)) throw error
    process.stderr.write(`salt-trail: ${error.message}\n`)
    process.exit(2)
  }
})
