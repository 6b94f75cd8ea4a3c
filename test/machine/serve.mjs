// A server for tests on the port given, or any, until it is told to end; whoever asks enters by
// himself.
import { startWorld } from './world.mjs'

const world = await startWorld({ port: Number(process.argv[2]), enters: false })
process.stdout.write(`${world.address}\n`)
