import { expect, it } from 'vitest'
import { folded, rowsOf, wordsApart } from './diff'

const plain = (a: string[], b: string[]) => rowsOf(a, b).map((r) => `${r.old < 0 ? '' : a[r.old]}|${r.now < 0 ? '' : b[r.now]}${r.same ? '' : ' *'}`)

it('lays lines beside each other that belong together', () => {
  expect(plain(['a', 'b', 'c'], ['a', 'x', 'c'])).toEqual(['a|a', 'b|x *', 'c|c'])
  expect(plain(['a', 'c'], ['a', 'b', 'c'])).toEqual(['a|a', '|b *', 'c|c'])
  expect(plain([], ['a'])).toEqual(['|a *'])
  expect(plain(['p', 'a', 'b', 'q', 'c'], ['a', 'b', 'c', 'd'])).toEqual(['p| *', 'a|a', 'b|b', 'q| *', 'c|c', '|d *'])
})

it('keeps every line of both sides, in order, and calls same only what is', () => {
  let seed = 7
  const draw = (n: number) => (seed = (seed * 48271) % 2147483647) % n
  for (let n = 0; n < 300; n++) {
    const line = () => 'abcd'[draw(4)]
    const a = Array.from({ length: draw(30) }, line)
    const b = draw(3) ? a.flatMap((l) => (draw(5) ? [l] : draw(2) ? [line(), l] : [])) : Array.from({ length: draw(30) }, line)
    const rows = rowsOf(a, b)
    expect(rows.filter((r) => r.old >= 0).map((r) => r.old)).toEqual(a.map((_, i) => i))
    expect(rows.filter((r) => r.now >= 0).map((r) => r.now)).toEqual(b.map((_, i) => i))
    for (const r of rows) expect(r.same).toBe(r.old >= 0 && r.now >= 0 && r.same && a[r.old] === b[r.now])
  }
})

it('takes long texts that have nothing in common for different in no time', () => {
  const a = Array.from({ length: 20_000 }, (_, i) => `old ${i}`)
  const b = Array.from({ length: 20_000 }, (_, i) => `new ${i}`)
  expect(rowsOf(a, b)).toHaveLength(20_000)
})

it('marks the words that differ', () => {
  const [old, now] = wordsApart('- url: https://api.saltmere.example/v1', '- url: https://api.saltmere.example/v2')
  expect(old).toEqual([{ text: '- url: https://api.saltmere.example/', differs: false }, { text: 'v1', differs: true }])
  expect(now.at(-1)).toEqual({ text: 'v2', differs: true })
  expect(wordsApart('type: string', 'required: [a]')[0]).toEqual([{ text: 'type: string', differs: false }])
})

it('folds what is alike', () => {
  const a = Array.from({ length: 20 }, (_, i) => `${i}`)
  const rows = rowsOf(a, [...a.slice(0, 10), 'x', ...a.slice(11)])
  expect(folded(rows, 2)).toEqual([{ from: 0, to: 8, folded: true }, { from: 8, to: 13, folded: false }, { from: 13, to: 20, folded: true }])
  expect(folded(rows, 2, (r) => r.old === 0)[0]).toEqual({ from: 0, to: 3, folded: false })
})
