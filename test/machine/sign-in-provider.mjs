// A sign-in provider for tests (OpenID Connect) on a free port of loopback, which it prints. Each
// line of its input is the claims that it vouches for from then on, as JSON.
import { createInterface } from 'node:readline'
import { OAuth2Server } from 'oauth2-mock-server'

const provider = new OAuth2Server()
await provider.issuer.keys.generate('RS256')
await provider.start(0, '127.0.0.1')
const { port } = provider.address()
provider.issuer.url = `http://127.0.0.1:${port}`
let claims = {}
provider.service.on('beforeTokenSigning', ({ payload }) => Object.assign(payload, claims))
process.stdout.write(`${provider.issuer.url}\n`)
const lines = createInterface(process.stdin)
lines.on('line', (line) => {
  claims = JSON.parse(line)
  process.stdout.write('set\n')
})
lines.on('close', () => provider.stop())
