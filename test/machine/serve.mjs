// A server for browser tests on the port given, until it is told to end.
import { startWorld } from './world.mjs'

const world = await startWorld({ port: Number(process.argv[2]) })
process.stdout.write(`${world.address}\n`)
