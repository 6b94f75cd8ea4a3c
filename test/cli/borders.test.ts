import { spawnSync } from 'node:child_process'
import { join } from 'node:path'

const root = join(__dirname, '../..')

interface Probe {
  readonly path: string
  readonly text: string
  /** The rule that it breaks; null where it keeps to the borders. */
  readonly breaks: string | null
}

const PROBES: readonly Probe[] = [
  {
    path: 'core/src/walk/probe.ts',
    text: "import { readFileSync } from 'node:fs'\nexport const probe = readFileSync\n",
    breaks: 'no-restricted-imports',
  },
  {
    path: 'core/src/walk/probe.ts',
    text: "import { database } from '../../../server/database/client'\nexport const probe = database\n",
    breaks: 'no-restricted-imports',
  },
  {
    path: 'core/src/address/probe.ts',
    text: "import { trace } from '../trace/trace'\nexport const probe = trace\n",
    breaks: 'no-restricted-imports',
  },
  {
    path: 'core/src/walk/probe.ts',
    text: 'export const probe = () => process.exit()\n',
    breaks: 'no-restricted-globals',
  },
  {
    path: 'app/questions/probe.ts',
    text: "import { database } from '../../server/database/client'\nexport const probe = database\n",
    breaks: 'no-restricted-imports',
  },
  {
    path: 'core/src/trace/probe.ts',
    text: "import { formatAddress } from '../address/address'\n\nexport const probe = formatAddress\n",
    breaks: null,
  },
]

/** Asks the linter about each text as if it were a file at its place; it is started once. */
const LINT = `
  import { ESLint } from 'eslint'
  import { text } from 'node:stream/consumers'
  const eslint = new ESLint()
  const rules = []
  for (const { path, text: code } of JSON.parse(await text(process.stdin))) {
    const [{ messages }] = await eslint.lintText(code, { filePath: path })
    rules.push(messages.map(({ ruleId }) => ruleId))
  }
  process.stdout.write(JSON.stringify(rules))
`
let said: string[][] = []
beforeAll(() => {
  const { stdout, stderr } = spawnSync(process.execPath, ['--input-type=module', '-e', LINT], {
    input: JSON.stringify(PROBES),
    cwd: root,
    encoding: 'utf8',
  })
  if (stdout === '') throw new Error(stderr)
  said = JSON.parse(stdout) as string[][]
}, 60_000)

test.each(PROBES.map((probe, at) => [probe, at] as const))('%j', ({ breaks }, at) => {
  if (breaks === null) expect(said[at]).toEqual([])
  else expect(said[at]).toContain(breaks)
})
