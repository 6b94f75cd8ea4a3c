// `npm run build`: the production build, unless it is there and its sources are unchanged.
import { ensureBuilt } from './machine/build.mjs'
import { ensurePackages } from './machine/packages.mjs'
import { command } from './machine/run.mjs'

await command(async () => {
  await ensurePackages()
  ensureBuilt()
  return 0
})
