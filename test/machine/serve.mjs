// A server for browser tests on the port given, until SIGTERM.
import { startWorld } from './world.mjs'

const world = await startWorld({ port: Number(process.argv[2]) })
process.stdout.write(`${world.address}\n`)
for (const signal of ['SIGTERM', 'SIGINT']) {
  process.on(signal, async () => {
    await world.stop()
    process.exit(0)
  })
}
