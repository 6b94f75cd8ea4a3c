import { startWorld } from './world.mjs'

export default async function setup() {
  const world = await startWorld()
  globalThis.saltTrailWorld = world
  process.env.SALT_TRAIL_TEST_ADDRESS = world.address
  process.env.SALT_TRAIL_TEST_COOKIE = world.cookie
  process.env.DATABASE_URL = world.databaseUrl
}
