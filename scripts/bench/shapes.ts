import { writeFileSync } from 'node:fs'
import { check } from '../../cli/check'
import { generateEstate } from '../generator/estate'
import { generateShape, type ShapeName } from '../generator/shapes'
import { SIZES } from '../generator/plan'

// `make NAME SUBNETS FILE` writes an estate of a shape, or the generator's M; `check FILE` is
// `salt-trail check --format json FILE`, and tells what it took, in a process in which nothing else
// was done.
const [what, ...words] = process.argv.slice(2)
if (what === 'make') {
  const [name, subnets, file] = words as [ShapeName | 'M', string, string]
  const made = name === 'M' ? generateEstate(SIZES.M, 1) : generateShape(name, Number(subnets))
  writeFileSync(file, JSON.stringify(made.estate))
} else {
  check([words[0]!], { format: 'json', by: 'root' })
  const { user, system } = process.cpuUsage()
  const { maxRSS } = process.resourceUsage()
  process.stderr.write(
    `${JSON.stringify({ seconds: (user + system) / 1e6, bytes: maxRSS * 1024 })}\n`,
  )
}
