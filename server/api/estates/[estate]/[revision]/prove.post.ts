import { problemsJson, proveExpectations, readEstate } from '@salt-trail/core'
import { body, refusal } from '../../../../contract/respond'
import { revisionOf } from '../../../../contract/revision'
import { proveBody } from '../../../../contract/schemas'
import { modelOf } from '../../../../estates/models'
import { readDocument } from '../../../../estates/store'

/** The name by which problems speak of the text that was sent. */
const WRITTEN = 'what is written here'
/** What is written is read together with the whole estate, by the server's own thread. */
const MOST_SUBNETS = 2_000

/** Proves expectations over all packets before they are saved: those of the text, not those the estate has. */
export default defineEventHandler(async (event) => {
  const { text } = await body(event, proveBody)
  const { db, id } = await revisionOf(event)
  const { model, memo } = await modelOf(db, id)
  if (model.index.subnets.size > MOST_SUBNETS)
    throw refusal(
      422,
      'too-large',
      `an estate of more than ${MOST_SUBNETS.toLocaleString('en-GB')} subnets proves expectations when they are brought in, or on the command line`,
    )
  const saved = { name: 'the estate', text: await readDocument(db, id) }
  const { estate, problems } = readEstate([saved, { name: WRITTEN, text }])
  const said = problemsJson(problems.filter((one) => one.file !== saved.name))
  if (!estate) return { ...said, expectations: null }
  const known = model.estate.expectations
  const written = new Map([...estate.expectations].filter(([one]) => !known.has(one)))
  const results = proveExpectations(model, written, memo)
  return { ...said, expectations: results.map(({ trace: _, ...state }) => state) }
})
