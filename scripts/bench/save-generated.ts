import { drizzle } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import { readEstate } from '@salt-trail/core'
import { contentOf } from '../../server/estates/content'
import { WITHOUT_LIMITS } from '../../server/estates/limits'
import { createEstate } from '../../server/estates/store'
import { generateEstate } from '../generator/estate'
import { SIZES, type SizeName } from '../generator/plan'

/**
 * Saves a generated estate straight into the database: the largest is larger than a request may be.
 * Prints where it is, and how large.
 */
const text = JSON.stringify(generateEstate(SIZES[process.argv[2] as SizeName], 1).estate)
const { estate, problems } = readEstate([{ name: 'generated.json', text }], WITHOUT_LIMITS)
if (!estate) throw new Error(problems[0]?.message)
const client = new pg.Client({ connectionString: process.env.DATABASE_URL })
await client.connect()
try {
  const db = drizzle(client, { casing: 'snake_case' })
  const { slug } = await createEstate(db, {
    content: contentOf(estate),
    files: [],
    author: 'bench',
    origin: 'generated',
  })
  console.log(
    JSON.stringify({
      slug,
      megabytes: Math.round(text.length / 2 ** 20),
      subnets: estate.subnets.size,
    }),
  )
} finally {
  await client.end()
}
