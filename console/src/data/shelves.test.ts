import { expect, test } from 'vitest'
import { groupWords, picked, swapped } from './shelves'

test('who sees a shelf is told in words', () => {
  expect(groupWords(['signed-in', 'team Quayside'], 'nobody')).toBe('whoever is signed in, Quayside')
  expect(groupWords([], 'nobody')).toBe('nobody')
})

test('versions are picked as they are written', () => {
  expect(picked(' 2, 1.4.0\n3')).toEqual(['2', '1.4.0', '3'])
  expect(picked('all')).toEqual([])
  expect(picked('')).toEqual([])
})

test('two change places, and nothing outside of the list does', () => {
  expect(swapped(['a', 'b', 'c'], 1, 0)).toEqual(['b', 'a', 'c'])
  expect(swapped(['a', 'b'], 1, 2)).toEqual(['a', 'b'])
  expect(swapped(['a', 'b'], 0, -1)).toEqual(['a', 'b'])
})
