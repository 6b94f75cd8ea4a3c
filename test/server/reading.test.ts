import { generateEstate } from '../../scripts/generator/estate'
import { SIZES } from '../../scripts/generator/plan'
import { base, get, json, withServer } from './asking'

const textOf = (networks: number): string =>
  JSON.stringify(generateEstate({ ...SIZES.S, networks }, 7).estate)
const post = (address: string, path: string, text: string, more: object = {}): Promise<Response> =>
  fetch(`${address}${path}`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ files: [{ name: 'made.json', text }], ...more }),
  })

test('what may be brought in is set for a server, and past it the limit is named', async () => {
  const [small, large] = [textOf(2), textOf(36)]
  expect(large.length).toBeGreaterThan(2 ** 20)
  await withServer({ SALT_TRAIL_DOCUMENT_MEGABYTES: '1' }, async (address) => {
    expect((await post(address, '/api/estates', small, {})).status).toBe(201)
    const checked = (await (await post(address, '/api/check', large)).json()) as {
      errors: { code: string; message: string }[]
    }
    expect(checked.errors).toMatchObject([{ code: 'limit-bytes' }])
    expect(checked.errors[0]!.message).toMatch(/at most 1048576 are read \(limit: bytes\)$/)
    const refused = await post(address, '/api/estates', large, {})
    expect([
      refused.status,
      ((await refused.json()) as { data: { code: string } }).data.code,
    ]).toEqual([422, 'invalid-estate'])
    // A body that could hold no such document is not even taken.
    expect((await post(address, '/api/check', 'x'.repeat(3 * 2 ** 20))).status).toBe(413)
  })
}, 60_000)

test('files that take more memory to read than they may are refused, and the server stays up', async () => {
  await withServer({ SALT_TRAIL_READING_MEGABYTES: '12' }, async (address) => {
    const refused = await post(address, '/api/estates', textOf(60), {})
    expect(refused.status).toBe(507)
    expect(await refused.json()).toMatchObject({ data: { code: 'no-memory' } })
    expect(await get('/api/estates', address)).toHaveLength(1)
  })
}, 60_000)

test('several files are read at the same time, each for whoever sent it', async () => {
  const texts = [1, 2, 3, 4, 5, 6].map((networks) => textOf(networks))
  const answers = await Promise.all(
    texts.map(
      async (text) =>
        (await post(base, '/api/estates', text)).json() as Promise<{
          slug: string
        }>,
    ),
  )
  for (const [at, { slug }] of answers.entries()) {
    const outline = await get<{ counts: Record<string, number> }>(`/api/estates/${slug}/1/outline`)
    expect(outline.counts.networks).toBe(
      Object.keys((JSON.parse(texts[at]!) as { networks: object }).networks).length,
    )
  }
})

test('a question may not be as large as a file, and is refused before it is read', async () => {
  const large = JSON.stringify({ from: 'x', to: 'y', more: 'z'.repeat(100_000) })
  const send = (path: string, method: string): Promise<Response> =>
    fetch(`${base}${path}`, { method, headers: json, body: large })
  for (const [path, method] of [
    ['/api/estates/halite-ferries/head/trace', 'POST'],
    ['/api/estates/halite-ferries/head/proposals', 'POST'],
    ['/api/estates/halite-ferries', 'PUT'],
    ['/api/estates/halite-ferries', 'DELETE'],
  ] as const) {
    const refused = await send(path, method)
    expect([path, method, refused.status]).toEqual([path, method, 413])
    expect(((await refused.json()) as { data: { message: string } }).data.message).toMatch(
      /larger than 65536 bytes/,
    )
  }
})

test('a body with files that is no JSON, or holds other things, is refused as any other', async () => {
  const send = async (body: string): Promise<unknown> => {
    const answer = await fetch(`${base}/api/check`, { method: 'POST', headers: json, body })
    return [answer.status, ((await answer.json()) as { data?: { code: string } }).data?.code]
  }
  expect(await send('{')).toEqual([400, 'bad-json'])
  expect(await send('['.repeat(200_000))).toEqual([400, 'bad-json'])
  expect(await send('[]')).toEqual([400, 'bad-request'])
  expect(await send('{"files": []}')).toEqual([400, 'bad-request'])
  const keys = Array.from({ length: 200_000 }, (_, at) => `"k${at}":${at}`).join()
  expect(await send(`{${keys}}`)).toEqual([400, 'bad-request'])
  const fine = JSON.stringify({ files: [{ name: 'x', text: textOf(1) }], ...{ other: 1 } })
  expect(await send(fine)).toEqual([200, undefined])
})
