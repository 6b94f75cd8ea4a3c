// The worst that one account may send, all at once and again and again, for so many seconds: a
// trace with very many equal ways, a rule of very many kinds of packets, files full of what is
// wrong, bodies as large as they may be. Prints what was answered.
const [address, cookie, seconds, only] = process.argv.slice(2)
const headers = { 'content-type': 'application/json', cookie }
const send = (path, body) =>
  fetch(`${address}${path}`, { method: 'POST', headers, body: JSON.stringify(body) })

const times = (count, entry) => Array.from({ length: count }, (_, at) => entry(at))
const named = (count, name, entry) =>
  Object.fromEntries(times(count, (at) => [name(at), entry(at)]))
const network = {
  format: 'salt-trail/1',
  regions: { r: {} },
  networks: { n: { region: 'r', ranges: ['10.0.0.0/16'] } },
  subnets: { a: { network: 'n', ranges: ['10.0.0.0/24'], routeTable: 't' } },
}

/** One site behind very many gateways that all learn and announce the same. */
const gateways = {
  ...network,
  name: 'Many gateways',
  routeTables: { t: { network: 'n', learn: 'all' } },
  interfaces: { h: { subnet: 'a', addresses: ['10.0.0.9'] } },
  sites: { s: { ranges: ['172.20.0.0/16'] } },
  gateways: named(
    256,
    (at) => `g${at}`,
    () => ({
      ...{ kind: 'private', network: 'n', site: 's' },
      ...{ learned: ['172.20.0.0/16'], announces: ['10.0.0.0/16'] },
    }),
  ),
}

/** One rule that lets in more kinds of packets than anybody looks at one by one. */
const rule = {
  ...network,
  name: 'One rule',
  ruleSets: {
    rs: {
      rules: [
        {
          ...{ direction: 'in', protocol: 'tcp' },
          peers: times(40, (at) => `192.${at}.${at * 3}.0/24`),
          local: times(40, (at) => `10.0.0.${at * 2}/32`),
          ports: times(40, (at) => 1000 + at * 7),
          sourcePorts: times(40, (at) => 2000 + at * 9),
        },
        { direction: 'out', protocol: 'any', peers: ['any'] },
      ],
    },
  },
  interfaces: {
    h: { subnet: 'a', addresses: ['10.0.0.10'], publicAddress: '203.0.113.9', ruleSets: ['rs'] },
  },
  publicAddresses: { '203.0.113.9': {} },
  gateways: { d: { kind: 'internet', network: 'n' } },
  routeTables: { t: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'd' } }] } },
}

const badPorts = {
  ...network,
  name: 'Bad ports',
  ruleSets: {
    rs: {
      rules: times(1_500, () => ({
        ...{ direction: 'in', protocol: 'tcp', peers: ['any'], ports: [99_999] },
      })),
    },
  },
}
const anchors = `format: salt-trail/1\nname: Anchors\ntags:\n${times(8_000, (at) => `  t${at}: &a${at} x${at}\n  u${at}: *a${at}\n`).join('')}`
const keys = `{${times(400_000, (at) => `"key${at}":${at}`).join(',')}}`

const file = (text) => ({ files: [{ name: 'worst.json', text }] })
const create = async (estate) =>
  (await (await send('/api/estates', file(JSON.stringify(estate)))).json()).slug
const [many, one] = await Promise.all([create(gateways), create(rule)])
const question = { from: 'interface:h', to: '172.20.0.1', protocol: 'tcp', port: 443 }
const KINDS = {
  trace: () => send(`/api/estates/${many}/head/trace`, question),
  traces: () =>
    send(
      `/api/estates/${many}/head/traces`,
      times(200, () => question),
    ),
  'ways in': () => fetch(`${address}/api/estates/${one}/head/ways-in?subnet=a`, { headers }),
  exposure: () => fetch(`${address}/api/estates/${one}/head/exposure?sort=subnet`, { headers }),
  ports: () => send('/api/check', file(JSON.stringify(badPorts))),
  anchors: () => send('/api/check', { files: [{ name: 'worst.yaml', text: anchors }] }),
  keys: () => fetch(`${address}/api/check`, { method: 'POST', headers, body: keys }),
  save: () => create(rule),
}

const end = Date.now() + Number(seconds) * 1_000
const answered = {}
await Promise.all(
  Object.entries(KINDS)
    .filter(([kind]) => only === undefined || only === '' || only.split(',').includes(kind))
    .flatMap(([kind, ask]) =>
      times(2, async () => {
        while (Date.now() < end) {
          const left = AbortSignal.timeout(Math.max(1, end - Date.now()))
          const over = new Promise((resolve) =>
            left.addEventListener('abort', () => resolve('left')),
          )
          const answer = await Promise.race([
            Promise.resolve(ask()).then(
              (one) => one?.status ?? 'saved',
              () => 'cut',
            ),
            over,
          ])
          const counts = (answered[kind] ??= {})
          counts[answer] = (counts[answer] ?? 0) + 1
        }
      }),
    ),
)
process.stdout.write(`${JSON.stringify(answered)}\n`)
process.exit(0)
