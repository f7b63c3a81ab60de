import { expect, it } from 'vitest'
import type { JsonObject } from './json'
import { choicesOf, fieldsOf, headersOf, parametersOf, partsOf, valuesOf } from './parts'

const root = {
  paths: {
    '/berths/{berth}': {
      parameters: [{ $ref: '#/components/parameters/Berth' }],
      get: {
        operationId: 'readBerth', summary: 'Read a berth', tags: ['Quay', 'Berths'],
        parameters: [{ name: 'side', in: 'query', schema: { type: 'array', items: { enum: ['port', 'starboard'] } } }],
        responses: { 200: { headers: { 'X-Left': {} } }, default: { $ref: '#/components/responses/Error' } },
      },
      delete: { responses: {} },
    },
  },
  components: {
    parameters: { Berth: { name: 'berth', in: 'path' } },
    responses: { Error: { headers: { 'Retry-After': {} } } },
    schemas: { Berth: { properties: { state: { $ref: '#/components/schemas/State' }, name: {} } }, State: { enum: ['free', 1] } },
  },
} as unknown as JsonObject
const values = (choices: { value: string }[]) => choices.map((c) => c.value).join(' ')

it('offers what a notice can speak of', () => {
  expect(values(choicesOf(root))).toBe('readBerth DELETE /berths/{berth}')
  expect(choicesOf(root)[0].label).toBe('Read a berth, GET /berths/{berth}')
  expect(values(parametersOf(root, 'readBerth'))).toBe('side berth')
  expect(values(parametersOf(root, 'DELETE /berths/{berth}'))).toBe('berth')
  expect(values(headersOf(root, 'readBerth'))).toBe('Retry-After X-Left')
  expect(values(fieldsOf(root))).toBe('Berth.name Berth.state')
  expect(values(valuesOf(root, { operation: '', parameter: '', field: 'Berth.state' }))).toBe('1 free')
  expect(values(valuesOf(root, { operation: 'readBerth', parameter: 'side', field: '' }))).toBe('port starboard')
  expect(partsOf(root).map((c) => c.value)).toEqual(['group Berths', 'group Quay', 'operation readBerth', 'operation DELETE /berths/{berth}'])
  expect(parametersOf(root, 'nothing')).toEqual([])
  expect(fieldsOf({})).toEqual([])
})
