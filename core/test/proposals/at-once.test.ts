import { proposalAtOnce, proverOf, rootCauses } from '../../src/index'
import { estateOfJson } from '../random/read'

/** Subnets that lead to a translator that is gone; one that is there serves their neighbour. */
const estate = (ids: readonly string[]) =>
  estateOfJson({
    networks: { n: { ranges: ['10.1.0.0/16'] } },
    subnets: {
      edge: { network: 'n', ranges: ['10.1.0.0/24'], routeTable: 'out' },
      ...Object.fromEntries(
        [...ids, 'sound'].map((id, at) => [
          id,
          { network: 'n', ranges: [`10.1.${at + 1}.0/24`], routeTable: `${id}-table` },
        ]),
      ),
    },
    interfaces: Object.fromEntries(
      [...ids, 'sound'].map((id, at) => [
        `${id}-1`,
        { subnet: id, addresses: [`10.1.${at + 1}.9`] },
      ]),
    ),
    gateways: { door: { kind: 'internet', network: 'n' } },
    nats: {
      nat: {
        network: 'n',
        kind: 'public',
        placement: { subnet: 'edge' },
        addresses: ['203.0.113.9'],
      },
    },
    publicAddresses: { '203.0.113.9': { reserved: true } },
    routeTables: {
      out: { network: 'n', routes: [{ to: '0.0.0.0/0', via: { gateway: 'door' } }] },
      'sound-table': { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'nat' } }] },
      ...Object.fromEntries(
        ids.map((id) => [
          `${id}-table`,
          { network: 'n', routes: [{ to: '0.0.0.0/0', via: { nat: 'gone' } }] },
        ]),
      ),
    },
  })

const deadRoutes = (ids: readonly string[]) => {
  const prover = proverOf(estate(ids))
  const cause = rootCauses(prover.model, prover.findings).find(
    ({ code }) => code === 'hole-dead-target',
  )!
  return { cause, proposal: proposalAtOnce(prover, cause)! }
}

test('what several tables need is one proposal, tried as a whole', () => {
  const { cause, proposal } = deadRoutes(['quay', 'dock'])
  expect(cause.roots).toHaveLength(2)
  expect(proposal).toMatchObject({ harmless: true, mends: cause.findings })
  const went = proposal.findings.went.map(({ fingerprint }) => fingerprint)
  for (const { findings } of cause.roots)
    for (const { fingerprint } of findings) expect(went).toContain(fingerprint)
  expect(new Set(proposal.changes.map(({ path }) => path.split('/')[2])).size).toBe(2)
})

test('many changes are told as the first and how many more', () => {
  const { cause, proposal } = deadRoutes(['quay', 'dock', 'pier', 'slip'])
  expect(proposal.what).toMatch(/; and 3 more changes$/)
  expect(proposal.mends).toBe(cause.findings)
})

test('what mends the first is made for all that are alike, and tried once together', () => {
  const ids = Array.from({ length: 20 }, (_, at) => `berth-${at}`)
  const prover = proverOf(estate(ids))
  const cause = rootCauses(prover.model, prover.findings).find(
    ({ code }) => code === 'hole-dead-target',
  )!
  let tried = 0
  const counting: typeof prover = {
    ...prover,
    attempt: (...all) => {
      tried++
      return prover.attempt(...all)
    },
  }
  const proposal = proposalAtOnce(counting, cause)!
  expect(proposal).toMatchObject({ harmless: true, mends: cause.findings })
  expect(new Set(proposal.changes.map(({ path }) => path.split('/')[2])).size).toBe(20)
  expect(tried).toBeLessThan(6)
})
