import { existsSync, readFileSync } from 'node:fs'
import {
  apply,
  checkEstate,
  errorsOf,
  outageOf,
  readChange,
  type Change,
  type Estate,
} from '@salt-trail/core'
import { printConsequences, type ConsequenceFlags } from './consequences'
import { refuse, REFUSED } from './exit-status'
import { estateOrComplain, reasonOf } from './read-files'

export interface WhatIfFlags extends ConsequenceFlags {
  readonly patch?: string
  readonly fail?: readonly string[]
}

const complain = (message: string): null => {
  refuse(message)
  return null
}

/**
 * `salt-trail what-if FILE…`: what a patch, or an outage, would bring about. `--fail` takes several
 * names, so files that follow it are found among them.
 */
export function whatIf(given: readonly string[], options: WhatIfFlags): number {
  const files = (options.fail ?? []).filter((name) => !name.startsWith('zone:') && existsSync(name))
  const names = [...given, ...files]
  const fail = options.fail?.filter((name) => !files.includes(name))
  const { fail: _, ...others } = options
  const flags: WhatIfFlags = fail === undefined ? others : { ...others, fail }
  if (names.length === 0) {
    return refuse('what-if needs estate files')
  }
  if ((flags.patch === undefined) === (flags.fail === undefined)) {
    return refuse('what-if needs either --patch PATCH.json, or --fail zone:ID or section/ID')
  }
  const estate = estateOrComplain(names)
  if (!estate) return REFUSED
  const asked =
    flags.patch === undefined ? outage(estate, flags.fail!) : patched(estate, flags.patch)
  const after = asked && changed(estate, asked.change, flags.patch ?? flags.fail!.join(' '))
  return after ? printConsequences(estate, after, flags, asked.leftOut) : REFUSED
}

interface Asked {
  readonly change: Change
  readonly leftOut: readonly string[]
}

function outage(estate: Estate, failing: readonly string[]): Asked | null {
  const made = outageOf(estate, failing)
  if (!made.ok) return complain(made.message)
  const spanning = made.leftOut.map((ref) => `${ref} spans its region, and is taken as up`)
  return { change: made.change, leftOut: spanning }
}

function patched(estate: Estate, file: string): Asked | null {
  let patch: unknown
  try {
    patch = JSON.parse(readFileSync(file === '-' ? 0 : file, 'utf8'))
  } catch (error) {
    const reason = error instanceof SyntaxError ? `is no JSON: ${error.message}` : reasonOf(error)
    return complain(`${file} ${reason}`)
  }
  const read = readChange(estate, patch)
  if (read.ok) return { change: read.change, leftOut: [] }
  return complain(failureText(file, read.failure))
}

const failureText = (
  file: string,
  { operation, path, message }: { operation: number; path: string; message: string },
): string => `${file}: operation ${operation + 1}${path === '' ? '' : ` (${path})`}: ${message}`

/** The estate after a change, if that is a valid one. */
function changed(estate: Estate, change: Change, file: string): Estate | null {
  const made = apply(estate, change)
  if (!made.ok) return complain(failureText(file, made.failure))
  const errors = errorsOf(checkEstate(made.estate, estate))
  for (const { message, code } of errors)
    process.stderr.write(`after ${file}: error: ${message} [${code}]\n`)
  for (const warning of made.warnings) process.stderr.write(`${file}: warning: ${warning}\n`)
  return errors.length === 0 ? made.estate : null
}
