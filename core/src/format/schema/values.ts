import { z } from 'zod'
import { parseAddress } from '../../address/address'
import { isPrefixFault, parsePrefix } from '../../address/prefix'

/**
 * What a check of ours adds to a Zod issue, so that the reader can turn it into a problem with a
 * code and a suggestion.
 */
export interface IssueParams {
  readonly code: string
  readonly suggestion?: string
}

export const ID_PATTERN = /^[A-Za-z0-9._\-/]{1,128}$/
const PREFIX_PATTERN = '^[0-9A-Fa-f.:]+/[0-9]{1,3}$'
const ADDRESS_PATTERN = '^[0-9A-Fa-f.:]+$'

export const id = z.string().regex(ID_PATTERN, {
  error: 'an id is 1 to 128 characters out of letters, digits and . _ - /',
})

type Context = { value: string; issues: unknown[] }

function report(context: Context, message: string, params: IssueParams): void {
  context.issues.push({ code: 'custom', message, params, input: context.value })
}

function checkAddress(context: Context): void {
  if (parseAddress(context.value) !== null) return
  const bare = context.value.split('/')[0]!
  const meant = parseAddress(bare) !== null && bare !== context.value ? bare : undefined
  report(context, `"${context.value}" is no IPv4 or IPv6 address`, {
    code: 'bad-address',
    suggestion: meant,
  })
}

function checkPrefix(context: Context): void {
  const result = parsePrefix(context.value)
  if (!isPrefixFault(result)) return
  const { fault, meant } = result
  const params = { code: fault === 'host-bits' ? 'host-bits' : 'bad-prefix', suggestion: meant }
  if (fault === 'host-bits')
    report(context, `"${context.value}" has host bits set; the prefix meant is ${meant}`, params)
  else if (fault === 'no-length')
    report(
      context,
      `"${context.value}" is an address; a prefix is wanted here, such as ${meant}`,
      params,
    )
  else
    report(
      context,
      `"${context.value}" is no prefix in CIDR form, such as 10.40.1.0/24 or 2001:db8:40::/56`,
      params,
    )
}

export const address = z
  .string()
  .check((context) => checkAddress(context as Context))
  .meta({
    pattern: ADDRESS_PATTERN,
    description: 'An IPv4 or IPv6 address',
    examples: ['10.40.1.10', '2001:db8:40:1::10'],
  })

export const prefix = z
  .string()
  .check((context) => checkPrefix(context as Context))
  .meta({
    pattern: PREFIX_PATTERN,
    description: 'A prefix in CIDR form without host bits',
    examples: ['10.40.1.0/24', '2001:db8:40:1::/64'],
  })

export const prefixes = z.array(prefix)
export const addresses = z.array(address)

/** `section/id`, as findings, groups and expectations name an object. */
export const objectRef = z
  .string()
  .regex(/^[A-Za-z]+\/[A-Za-z0-9._\-/]{1,128}$/, {
    error: 'an object is named as section/id, such as subnets/ticketing-web-1',
  })
  .meta({ examples: ['networks/ticketing'] })

/** A condition on one tag, `key=value`. */
export const tagCondition = z
  .string()
  .regex(/^[^=\s][^=]*=.*$/, { error: 'a tag condition is written key=value, such as scope=cards' })
  .meta({ examples: ['scope=cards'] })

export const state = z.enum(['up', 'pending', 'down', 'deleted'])
export const allOr = <T extends z.ZodType>(one: T) => z.union([z.literal('all'), z.array(one)])

export const order = z.int().min(0)
export const port = z.int().min(0).max(65535)

const PORT_RANGE = /^(\d{1,5})-(\d{1,5})$/
/** One port or a range of ports, `1024-65535`. */
export const portRange = z
  .union([
    port,
    z
      .string()
      .regex(PORT_RANGE, { error: 'a range of ports is written low-high, such as 1024-65535' }),
  ])
  .check((context) => {
    const match = typeof context.value === 'string' ? PORT_RANGE.exec(context.value) : null
    if (match && (Number(match[1]) > Number(match[2]) || Number(match[2]) > 65535)) {
      context.issues.push({
        code: 'custom',
        message: `"${context.value}" is no range of ports: the lower one comes first, and 65535 is the highest`,
        params: { code: 'bad-ports' },
        input: context.value,
      })
    }
  })

export const protocol = z
  .union([z.enum(['tcp', 'udp', 'icmp', 'icmpv6', 'any']), z.int().min(0).max(255)])
  .meta({ description: 'tcp, udp, icmp, icmpv6, any, or an IP protocol number' })

/** Texts for people: a short one, and one of some sentences. No text is without bound. */
export const titleText = z.string().max(200)
export const noteText = z.string().max(2_000)

/** What every object may have. */
export const common = {
  title: titleText.optional(),
  note: noteText.optional(),
  tags: z.record(titleText, noteText).optional(),
  state: state.optional(),
}

/** A map from id to object. */
export const idMap = <T extends z.ZodType>(value: T) => z.record(id, value)
