import { describe, expect, it } from 'vitest'
import type { JsonObject } from './json'
import { clear, edit, emptyOverlay, exampleOf, operationsOf, put, step, targetOf, textsOf, type Action, type Form } from './overlay'

const berths: JsonObject = {
  info: { title: 'Berths', description: 'Where boats lie.' },
  tags: [{ name: 'Quays', description: 'The quays.' }],
  paths: {
    "/berths/{it's}": {
      parameters: [],
      get: {
        operationId: 'readBerth', summary: 'Read a berth', tags: ['Quays'], 'x-ledger-order': 2,
        responses: { '200': { $ref: '#/components/responses/Berth' }, '404': { description: 'No.' } },
      },
      put: { requestBody: { content: { 'text/csv': { example: 'a;b' } } }, 'x-ledger-order': -1, 'x-ledger-hidden': true },
    },
  },
  components: {
    responses: { Berth: { content: { 'application/json': { examples: { one: { value: { name: 'N-14' } } } } } } },
    schemas: { Berth: { description: 'A place.', properties: { name: { description: 'Its name.' } } } },
  },
}

const form = (more: Partial<Form>): Form => ({ summary: 'Read a berth', description: '', group: 'Quays', order: 2, hidden: false, examples: ['{\n  "name": "N-14"\n}'], ...more })
const [put1, get1] = operationsOf(berths)

describe('targets', () => {
  it('writes steps as JSONPath has them', () => {
    expect(step("it's \\ so")).toBe("['it\\'s \\\\ so']")
    expect(targetOf('#/components/schemas/A~1B~0%20C')).toBe("$['components']['schemas']['A/B~ C']")
  })
})

describe('operations', () => {
  it('come in their order, with what a form shows of them', () => {
    expect([put1.key, get1.key]).toEqual(["PUT /berths/{it's}", "GET /berths/{it's}"])
    expect(put1).toMatchObject({ group: 'Operations', tagged: false, hidden: true, order: -1 })
    expect(get1).toMatchObject({ group: 'Quays', tagged: true, hidden: false, slug: 'readBerth', target: "$.paths['/berths/{it\\'s}'].get" })
  })

  it('have their examples where they stand, also behind a reference', () => {
    expect(get1.examples).toEqual([
      { label: '200, application/json', target: "$['components']['responses']['Berth']['content']['application/json']", example: '{\n  "name": "N-14"\n}', many: true },
    ])
    expect(put1.examples[0]).toMatchObject({ label: 'what is sent, text/csv', example: 'a;b', many: false })
  })

  it('are none where the document is none', () => expect(operationsOf({ paths: [] })).toEqual([]))
})

it('lists all other texts', () => {
  expect(textsOf(berths).map((t) => [t.label, t.description])).toEqual([
    ['The API', 'Where boats lie.'], ['Group Quays', 'The quays.'], ['Berth', 'A place.'], ['Berth.name', 'Its name.'],
  ])
})

describe('edits', () => {
  it('need no action where nothing changed', () => expect(edit([], get1, undefined, form({}))).toEqual([]))

  it('of one target are one action', () => {
    const actions = edit([], get1, undefined, form({ summary: 'See a berth', hidden: true }))
    expect(actions).toEqual([{ target: get1.target, update: { summary: 'See a berth', 'x-ledger-hidden': true } }])
    expect(edit(actions, get1, undefined, form({ description: 'One.' }))).toEqual([
      { target: get1.target, update: { summary: 'See a berth', 'x-ledger-hidden': true, description: 'One.' } },
    ])
  })

  it('leave the actions before them alone', () => {
    const before: Action[] = [{ target: get1.target, update: { summary: 'x' } }]
    edit(before, get1, undefined, form({ summary: 'y' }))
    expect(before).toEqual([{ target: get1.target, update: { summary: 'x' } }])
  })

  it('take a list away before another takes its place', () => {
    expect(edit([], get1, undefined, form({ group: ' Berths ' }))).toEqual([
      { target: get1.target + '.tags', remove: true }, { target: get1.target, update: { tags: ['Berths'] } },
    ])
    expect(edit([], get1, undefined, form({ examples: ['{"name": "S-2"}'] }))).toEqual([
      { target: get1.examples[0].target + '.examples', remove: true }, { target: get1.examples[0].target, update: { example: { name: 'S-2' } } },
    ])
    const twice = [{ target: 'a', remove: true }]
    clear(twice, 'a')
    expect(twice).toHaveLength(1)
  })

  it('reach other texts', () => {
    const [api] = textsOf(berths)
    expect(edit([], undefined, api, form({ description: 'All of it.' }))).toEqual([{ target: '$.info', update: { description: 'All of it.' } }])
  })

  it('merge objects and replace lists', () => {
    const actions: Action[] = [{ target: 'a', update: { x: { y: 1, z: [1] } } }]
    put(actions, 'a', { x: { z: [2] } })
    expect(actions).toEqual([{ target: 'a', update: { x: { y: 1, z: [2] } } }])
  })
})

describe('examples', () => {
  it('are JSON, or plainly a text', () => {
    expect(exampleOf('{"a": 1}')).toEqual({ a: 1 })
    expect(exampleOf('a;b')).toBe('a;b')
    expect(() => exampleOf('{"a": ')).toThrow('no JSON')
  })
})

it('begins with an overlay that does nothing', () => expect(emptyOverlay('berths@1.0.0')).toMatchObject({ overlay: '1.0.0', actions: [] }))
