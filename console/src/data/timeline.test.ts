import { expect, it } from 'vitest'
import { labelOf, marksOf, moved, nearest, ticksOf, zoomed, type Moment } from './timeline'

const years = (n: number) => n * 365 * 864e5
const scale = (from: number, to: number) => (at: number) => ((at - from) / (to - from)) * 1000

function check(all: Moment[], from: number, to: number) {
  const marks = marksOf(all, scale(from, to), 1000)
  expect(marks.reduce((n, m) => n + m.count, 0)).toBe(all.length)
  for (const [i, m] of marks.entries()) {
    if (i > 0) expect(m.x - marks[i - 1].x).toBeGreaterThanOrEqual(nearest)
    for (const other of marks.slice(0, i)) {
      if (!m.labelled || !other.labelled || m.above !== other.above) continue
      const half = (of: typeof m) => (7.4 * labelOf(all, of).length) / 2
      expect(m.x - half(m)).toBeGreaterThanOrEqual(other.x + half(other))
    }
  }
  return marks
}

it('never prints a mark over another: of one day, of sixty versions, over ten years', () => {
  const sixty = Array.from({ length: 60 }, (_, i) => ({ at: years(10) * (i / 59) ** 2, label: `1.${i}.0` }))
  expect(check(sixty, 0, years(10)).length).toBeGreaterThan(20)
  const imported = Array.from({ length: 60 }, (_, i) => ({ at: 5, label: `1.${i}.0` }))
  const [one] = check(imported, 0, 10)
  expect([one.count, one.labelled, labelOf(imported, one)]).toEqual([60, true, '1.0.0 … 1.59.0'])
  const oneDay = Array.from({ length: 8 }, (_, i) => ({ at: i * 3600e3, label: `2.${i}.0` }))
  expect(check(oneDay, 0, years(1))).toHaveLength(1)
  expect(check(oneDay, 0, 8 * 3600e3)).toHaveLength(8)
})

it('zooms around where one looks, and stays within what there is', () => {
  expect(zoomed([0, 100 * 864e5], 50 * 864e5, 0.5, [0, 100 * 864e5])).toEqual([25 * 864e5, 75 * 864e5])
  expect(zoomed([0, 100 * 864e5], 0, 2, [0, 100 * 864e5])).toEqual([0, 100 * 864e5])
  expect(moved([10, 20], -50, [0, 100])).toEqual([0, 10])
  expect(moved([10, 20], 500, [0, 100])).toEqual([90, 100])
})

it('names as many days, months or years as can be read', () => {
  for (const span of [864e5, 20 * 864e5, years(1), years(10), years(60)]) {
    const ticks = ticksOf([Date.UTC(2026, 2, 3, 5), Date.UTC(2026, 2, 3, 5) + span], 1000)
    expect(ticks.length).toBeGreaterThan(0)
    expect(ticks.length).toBeLessThan(14)
  }
  expect(ticksOf([Date.UTC(2026, 0, 2), Date.UTC(2027, 0, 2)], 1000)[0].text).toBe('Apr 2026')
})
