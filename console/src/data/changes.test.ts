import { expect, it } from 'vitest'
import { blockAt, groupsOf, sorted } from './changes'
import type { Change } from './types'

const change = (id: string, backward: string, forward: string, reach: string[], component?: string) =>
  ({ id, backward, forward, reach, new: component ? { component } : undefined }) as unknown as Change

const all = [
  change('a', 'safe', 'breaking', ['GET /a']),
  change('b', 'breaking', 'safe', ['GET /a', 'GET /b'], 'Berth'),
  change('c', 'hazard', 'hazard', []),
  change('d', 'breaking', 'safe', ['GET /b'], 'Berth'),
]

it('has the worst first, in the direction that is looked at', () => {
  expect(sorted(all, 'backward').map((c) => c.id).join('')).toBe('bdca')
  expect(sorted(all, 'forward').map((c) => c.id).join('')).toBe('acbd')
})

it('groups by operation and by component', () => {
  const read = (by: 'operation' | 'component') => groupsOf(all, by, { 'GET /b': 'GET /b/{berth}' }).map((g) => `${g.title}: ${g.changes.map((c) => c.id).join('')}`)
  expect(read('operation')).toEqual(['Several operations: b', 'The description: c', 'GET /a: a', 'GET /b/{berth}: d'])
  expect(read('component')).toEqual(['Berth: bd', 'Outside of components: ac'])
})

it('finds the lines of an element, in YAML and in JSON', () => {
  const yaml = ['a:', '  b: 1', '', '  c: 2', '', 'd: 3']
  expect(blockAt(yaml, 0)).toEqual([0, 4])
  expect(blockAt(yaml, 5)).toEqual([5, 6])
  const json = ['{', '  "a": {', '    "b": 1', '  },', '  "c": 2', '}']
  expect(blockAt(json, 1)).toEqual([1, 4])
  expect(blockAt(json, 9)).toEqual([6, 6])
})
