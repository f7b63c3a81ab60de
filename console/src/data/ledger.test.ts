import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { expired, resume } from './expired'
import { ledger, Refusal } from './ledger'

const answer = (status: number, body: unknown, type = 'application/json') =>
  new Response(typeof body === 'string' ? body : JSON.stringify(body), { status, headers: { 'Content-Type': type } })
const fetched = vi.fn<typeof fetch>()

beforeEach(() => vi.stubGlobal('fetch', fetched.mockReset()))
afterEach(() => {
  vi.unstubAllGlobals()
  resume()
})

it('asks for what is named, whatever the name', async () => {
  fetched.mockResolvedValue(answer(200, { name: 'a/b' }))
  await ledger.api('a/b')
  expect(fetched).toHaveBeenCalledWith('/api/v1/apis/a%2Fb', expect.objectContaining({ method: 'GET' }))
})

it('throws what the ledger refuses, with what it says of it', async () => {
  fetched.mockResolvedValue(answer(409, { title: 'Conflict', detail: 'It is published.', status: 409 }, 'application/problem+json'))
  const refused = await ledger.publish('berths@1', []).catch((e: unknown) => e)
  expect(refused).toBeInstanceOf(Refusal)
  expect((refused as Refusal).message).toBe('It is published.')
  expect((refused as Refusal).problem.status).toBe(409)
})

it('throws what somebody between them refuses', async () => {
  fetched.mockResolvedValue(answer(502, '<h1>No</h1>', 'text/html'))
  await expect(ledger.apis()).rejects.toThrow('<h1>No</h1>')
})

it('says where nobody answers', async () => {
  fetched.mockRejectedValue(new TypeError('Failed to fetch'))
  await expect(ledger.apis()).rejects.toThrow('cannot be reached')
})

it('waits for a new session, and does again what it was about, once for all who wait', async () => {
  const text = { old: 'a@1', new: 'a@2', anchor: 'intro', text: 'An hour.' }
  fetched.mockImplementation(() => Promise.resolve(answer(401, {})))
  const both = Promise.all([ledger.writeGuide(text), ledger.apis()])
  await vi.waitFor(() => expect(fetched).toHaveBeenCalledTimes(2))
  await vi.waitFor(() => expect(expired.value).toBe(true))
  fetched.mockImplementation((address) => Promise.resolve(answer(200, address === '/api/v1/guide/texts' ? { title: 'Berths' } : { items: [] })))
  resume()
  expect(await both).toEqual([{ title: 'Berths' }, []])
  expect(expired.value).toBe(false)
  expect(fetched).toHaveBeenCalledTimes(4)
  expect(fetched).toHaveBeenCalledWith('/api/v1/guide/texts', expect.objectContaining({ method: 'PUT', body: JSON.stringify(text) }))
})

it('does not wait where nobody was signed in', async () => {
  fetched.mockResolvedValue(answer(401, { detail: 'Who are you?' }))
  await expect(ledger.me()).rejects.toThrow('Who are you?')
  expect(expired.value).toBe(false)
})

it('names the overlay that was read, where one was', async () => {
  fetched.mockImplementation(() => Promise.resolve(answer(200, {})))
  const document = { overlay: '1.0.0', info: { title: '', version: '' }, actions: [] }
  await ledger.putOverlay('a@1', document, 'd1')
  await ledger.putOverlay('a@1', document, '')
  expect(fetched.mock.calls.map(([, init]) => (init?.headers as Record<string, string>)['If-Match'])).toEqual(['"d1"', undefined])
})

it('sends one file as it is, and several as a form', async () => {
  fetched.mockImplementation(() => Promise.resolve(answer(200, {})))
  const file = (name: string) => ({ path: name, content: new File(['x'], name) })
  await ledger.record({ files: [file('a.zip')], entry: 'b.yaml' }, 'berths')
  await ledger.record({ files: [file('a.yaml'), file('b/c.yaml')], entry: 'a.yaml' }, '')
  const [[one, sent], [several, form]] = fetched.mock.calls
  expect(one).toBe('/api/v1/recordings?api=berths&entry=b.yaml&file=a.zip')
  expect(sent?.headers).toMatchObject({ 'Content-Type': 'application/octet-stream' })
  expect(several).toBe('/api/v1/recordings?file=a.yaml')
  expect([...(form?.body as FormData).keys()]).toEqual(['a.yaml', 'b/c.yaml'])
})
