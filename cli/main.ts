import { randomUUID } from 'node:crypto'
import { writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Command, CommanderError, InvalidArgumentError, Option } from 'commander'
import { SEVERITIES } from '@salt-trail/core'
import { check, CHECK_FORMATS, CHECK_GROUPINGS, type CheckFlags } from './check'
import type { ConsequenceFlags } from './consequences'
import { diff } from './diff'
import { hops, waysIn, type SubnetFlags } from './hops'
import { FOUND, REFUSED } from './exit-status'
import { plan } from './plan'
import { propose, type ProposeFlags } from './propose'
import { trace } from './trace'
import { whatIf, type WhatIfFlags } from './what-if'

function port(text: string): number {
  const value = Number(text)
  if (!/^\d+$/.test(text) || value > 65535)
    throw new InvalidArgumentError('a port is a whole number from 0 to 65535')
  return value
}

function family(text: string): 4 | 6 {
  if (text !== '4' && text !== '6')
    throw new InvalidArgumentError('a family is 4, for IPv4, or 6, for IPv6')
  return text === '4' ? 4 : 6
}

function program(done: (status: number) => void): Command {
  const root = new Command('salt-trail')
    .description('Computes how packets leave and enter the subnets of an estate, and why.')
    .showHelpAfterError('(salt-trail --help shows how)')
    .exitOverride()
    .addHelpText(
      'after',
      '\nExit status: 0 fine, 1 something found, lost or not delivered, 2 input refused.',
    )

  root
    .command('check')
    .description(
      'reads estate files and reports everything wrong with them: errors, findings, broken expectations',
    )
    .argument('<files...>', 'estate files, YAML or JSON; several are merged; - is standard input')
    .addOption(
      new Option('--format <format>', 'how to print').choices(CHECK_FORMATS).default('text'),
    )
    .option(
      '--expectations <file>',
      'expectations kept in a file of their own, beside those of the estate',
    )
    .addOption(
      new Option(
        '--fail-on <severity>',
        'exit with 1 only for findings of at least this severity, or broken expectations',
      ).choices(SEVERITIES),
    )
    .addOption(
      new Option('--by <what>', 'list root causes, with what each decides, or finding by finding')
        .choices(CHECK_GROUPINGS)
        .default('root'),
    )
    .option('--mends', 'give every finding its first proposal, tried against the whole estate')
    .action((files: string[], options: CheckFlags) => done(check(files, options)))

  for (const [name, about, run] of [
    ['hops', 'the effective next hops of every subnet: the whole address space by way out', hops],
    ['ways-in', 'who can reach the hosts of every subnet, on what, through what', waysIn],
  ] as const) {
    root
      .command(name)
      .description(about)
      .argument('<files...>', 'estate files, YAML or JSON; several are merged; - is standard input')
      .option('--subnet <id>', 'of this subnet alone')
      .addOption(new Option('--json', 'print as JSON').conflicts('csv'))
      .option('--csv', 'print as CSV')
      .action((files: string[], options: SubnetFlags) => done(run(files, options)))
  }

  const failOn = (): Option =>
    new Option(
      '--fail-on <severity>',
      'of findings that come, count only those of at least this severity',
    ).choices(SEVERITIES)

  root
    .command('diff')
    .description(
      'what changed between two estates: objects, packets opened and cut, ways, findings, expectations',
    )
    .argument('<old>', 'an estate file')
    .argument('<new>', 'an estate file')
    .option('--json', 'print as JSON')
    .addOption(failOn())
    .action((old: string, now: string, options: ConsequenceFlags) => done(diff(old, now, options)))

  root
    .command('what-if')
    .description('what a change or an outage would bring about, without making it')
    .argument('[files...]', 'estate files, YAML or JSON; several are merged; - is standard input')
    .option('--patch <file>', 'a JSON patch (RFC 6902) of the merged document; - is standard input')
    .option('--fail <what...>', 'what is down: zone:ID, zone:REGION/ID, nats/ID, gateways/ID, …')
    .option('--json', 'print as JSON')
    .addOption(failOn())
    .action((files: string[], options: WhatIfFlags) => done(whatIf(files, options)))

  root
    .command('plan')
    .description(
      'the steps by which one estate becomes another, without a gap where there is such an order',
    )
    .argument('<old>', 'an estate file')
    .argument('<new>', 'an estate file')
    .option('--json', 'print as JSON')
    .action((old: string, now: string, options: { json?: boolean }) =>
      done(plan(old, now, options)),
    )

  root
    .command('propose')
    .description('what would mend a finding or a faulty question, tried against the whole estate')
    .argument('<files...>', 'estate files, YAML or JSON; several are merged; - is standard input')
    .option('--finding <fingerprint>', 'for this finding alone; else for every finding')
    .option('--from <end>', 'for a question, its ends written as for trace')
    .option('--to <end>', 'the same')
    .option('--protocol <protocol>', 'tcp, udp, icmp, icmpv6 or a number', 'tcp')
    .option('--port <port>', 'destination port', port)
    .option('--source-port <port>', 'source port, 50000 if not given', port)
    .option('--json', 'print with all consequences as JSON')
    .action((files: string[], options: ProposeFlags) => done(propose(files, options)))

  root
    .command('trace')
    .description('follows a packet there and back, with the reason for every decision')
    .argument('<files...>', 'estate files, YAML or JSON; several are merged; - is standard input')
    .option(
      '--from <end>',
      'interface:ID, interface:ID@ADDRESS, subnet:ID, an address, internet, site:ID, party:ID, service:ID',
    )
    .option('--to <end>', 'the same, or name:FQDN')
    .option('--protocol <protocol>', 'tcp, udp, icmp, icmpv6 or a number', 'tcp')
    .option('--port <port>', 'destination port', port)
    .option('--source-port <port>', 'source port, 50000 if not given', port)
    .option('--family <family>', '4 or 6; IPv4 if not given and both ends have both', family)
    .option('--continue', 'go on beyond the first fault as if it were mended')
    .option(
      '--questions <file>',
      'a JSON array of questions, answered in order; - is standard input',
    )
    .option('--json', 'print the whole answer as JSON')
    .action((files: string[], options) => done(trace(files, options)))
  return root
}

/**
 * A sentence for an error that nobody foresaw, with the file that holds all that is known of it.
 * That file is for the user alone: it may hold names from the estate.
 */
function unforeseen(error: unknown): string {
  const { message, stack } = error instanceof Error ? error : new Error(String(error))
  const id = randomUUID().slice(0, 8)
  const file = join(tmpdir(), `salt-trail-${id}.log`)
  let kept = ''
  try {
    writeFileSync(file, `${stack ?? message}\n`, { mode: 0o600, flag: 'wx' })
    kept = `; the details are in ${file}`
  } catch {
    // A full disk must not hide the error itself.
  }
  return `salt-trail: this could not be done: ${message} (error ${id})${kept}`
}

/** Runs one command line; returns the exit status. */
export function main(args: readonly string[]): number {
  let status = 0
  try {
    program((result) => (status = result)).parse(args, { from: 'user' })
  } catch (error) {
    if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : REFUSED
    process.stderr.write(`${unforeseen(error)}\n`)
    return REFUSED
  }
  return status
}

export { FOUND, REFUSED }
