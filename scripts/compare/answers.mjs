// Answers every case by the command line of one build and writes a line for each answer:
// `node answers.mjs MAIN CASES OUT`, where MAIN is the bundled command line.
import { createWriteStream, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'

const [mainFile, casesFile, outFile] = process.argv.slice(2)
const { main } = await import(pathToFileURL(mainFile).href)
const folder = mkdtempSync(join(tmpdir(), 'salt-trail-compare-'))
const out = createWriteStream(outFile)

/** Words for people, and the mends offered, may differ between builds. */
const FOR_PEOPLE = new Set([
  'sentence',
  'decision',
  'what',
  'message',
  'says',
  'because',
  'mend',
  'asks',
  'found',
  'reason',
  'facts',
  'suggestion',
])
const stripped = (key, value) => (FOR_PEOPLE.has(key) ? undefined : value)

/** What a command prints, and its status. */
function run(args) {
  const [write, complain] = [process.stdout.write, process.stderr.write]
  let printed = ''
  process.stdout.write = (text) => ((printed += text), true)
  process.stderr.write = () => true
  try {
    return { status: main(args), printed }
  } finally {
    process.stdout.write = write
    process.stderr.write = complain
  }
}

function answer(name, args) {
  const { status, printed } = run(args)
  let said = printed
  try {
    said = JSON.stringify(JSON.parse(printed), stripped)
  } catch {
    // Not JSON: a refusal, compared as it is.
  }
  // The folder has another name in each run.
  out.write(`${name}\t${status}\t${said.replaceAll(folder, '').replaceAll('\n', ' ')}\n`)
}

for (const line of readFileSync(casesFile, 'utf8').split('\n')) {
  if (line === '') continue
  const { name, files, questions, changed } = JSON.parse(line)
  const paths = files.map((file) => join(folder, file.name))
  files.forEach((file, at) => writeFileSync(paths[at], file.text))
  answer(`check ${name}`, ['check', ...paths, '--format', 'json'])
  answer(`hops ${name}`, ['hops', ...paths, '--json'])
  answer(`ways-in ${name}`, ['ways-in', ...paths, '--json'])
  if (questions.length > 0) {
    const asked = join(folder, 'questions.json')
    writeFileSync(asked, JSON.stringify(questions))
    answer(`trace ${name}`, ['trace', ...paths, '--questions', asked, '--json'])
  }
  if (changed !== null) {
    const other = join(folder, 'changed.json')
    writeFileSync(other, changed)
    answer(`diff ${name}`, ['diff', paths[0], other, '--json'])
  }
  for (const path of paths) rmSync(path)
}
rmSync(folder, { recursive: true })
out.end()
