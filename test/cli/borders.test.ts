import { spawnSync } from 'node:child_process'
import { join } from 'node:path'

const root = join(__dirname, '../..')

/** What the linter says of a file at this place with this text. */
function lint(path: string, text: string): string[] {
  const eslint = join(root, 'node_modules/eslint/bin/eslint.js')
  const { stdout } = spawnSync(
    process.execPath,
    [eslint, '--stdin', '--stdin-filename', join(root, path), '--format', 'json'],
    {
      input: text,
      cwd: root,
      encoding: 'utf8',
    },
  )
  const [file] = JSON.parse(stdout) as { messages: { ruleId: string }[] }[]
  return file!.messages.map((message) => message.ruleId)
}

test.each([
  [
    'core/src/walk/probe.ts',
    "import { readFileSync } from 'node:fs'\nexport const probe = readFileSync\n",
    'no-restricted-imports',
  ],
  [
    'core/src/walk/probe.ts',
    "import { database } from '../../../server/database/client'\nexport const probe = database\n",
    'no-restricted-imports',
  ],
  [
    'core/src/address/probe.ts',
    "import { trace } from '../trace/trace'\nexport const probe = trace\n",
    'no-restricted-imports',
  ],
  [
    'core/src/walk/probe.ts',
    'export const probe = () => process.exit()\n',
    'no-restricted-globals',
  ],
  [
    'app/questions/probe.ts',
    "import { database } from '../../server/database/client'\nexport const probe = database\n",
    'no-restricted-imports',
  ],
])('%s must not say %j', (path, text, rule) => {
  expect(lint(path, text)).toContain(rule)
})

test('what keeps to the borders passes', () => {
  expect(
    lint(
      'core/src/trace/probe.ts',
      "import { formatAddress } from '../address/address'\n\nexport const probe = formatAddress\n",
    ),
  ).toEqual([])
})
