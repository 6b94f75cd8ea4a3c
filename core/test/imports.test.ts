import { readdirSync, readFileSync } from 'node:fs'
import { join, relative, resolve } from 'node:path'
import { preProcessFile } from 'typescript'

const root = join(__dirname, '../src')

/** Every file of the core with the files it imports, types among them. */
function importsByFile(): Map<string, string[]> {
  const files = readdirSync(root, { recursive: true, encoding: 'utf8' })
    .filter((path) => path.endsWith('.ts'))
    .map((path) => join(root, path))
  const known = new Set(files)
  return new Map(
    files.map((file) => {
      const { importedFiles } = preProcessFile(readFileSync(file, 'utf8'))
      const own = importedFiles.filter(({ fileName }) => fileName.startsWith('.'))
      const paths = own.map(({ fileName }) => `${resolve(file, '..', fileName)}.ts`)
      return [file, paths.filter((path) => known.has(path))]
    }),
  )
}

/** A way from a file back to itself by imports; null where there is none. */
function cycleThrough(file: string, imports: ReadonlyMap<string, string[]>): string[] | null {
  const from = new Map<string, string>()
  const pending = [file]
  for (let at = pending.pop(); at !== undefined; at = pending.pop()) {
    for (const next of imports.get(at)!) {
      if (from.has(next)) continue
      from.set(next, at)
      pending.push(next)
    }
  }
  if (!from.has(file)) return null
  const cycle = [file]
  for (let at = from.get(file)!; at !== file; at = from.get(at)!) cycle.unshift(at)
  return cycle.map((path) => relative(root, path))
}

test('no file of the core imports itself by way of others, types included', () => {
  const imports = importsByFile()
  expect(imports.size).toBeGreaterThan(100)
  expect([...imports.keys()].flatMap((file) => cycleThrough(file, imports) ?? [])).toEqual([])
})
