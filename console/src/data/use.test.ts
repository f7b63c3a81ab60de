import { describe, expect, it } from 'vitest'
import type { Use, UseSeries } from './types'
import { bandsOf, csvOf, dayAfter, daysBetween, edgesOf, gapsOf, levelsOf } from './use'

let seed = 7
const random = (n: number) => (seed = (seed * 16807) % 2147483647) % n
const series = (name: string, days: number): UseSeries => {
  const drawn = Array.from({ length: days }, () => random(900))
  return { name, known: true, calls: drawn.reduce((a, b) => a + b, 0), failed: 0, firstDay: '2026-09-01', lastDay: '2026-11-27', days: drawn }
}

describe('calls', () => {
  it('add up to the last one, in the picture and in the table', () => {
    for (const n of [1, 3, 7, 8, 40]) {
      const all = Array.from({ length: n }, (_, i) => series(`1.${i}.0`, 90))
      const total = all.reduce((sum, s) => sum + s.calls, 0)
      const bands = bandsOf(all)
      expect(bands.length).toBe(Math.min(n, 7))
      expect(bands.reduce((sum, b) => sum + b.calls, 0)).toBe(total)
      expect(edgesOf(bands).at(-1)!.reduce((a, b) => a + b, 0)).toBe(total)
      const use = { api: 'berths', by: 'version', from: '2026-08-30', until: '2026-11-27', days: 90, series: all } as Use
      const cells = csvOf(use).trim().split('\n').slice(1).flatMap((line) => line.split(',').slice(1).map(Number))
      expect(cells.length).toBe(90 * n)
      expect(cells.reduce((a, b) => a + b, 0)).toBe(total)
    }
  })
  it('have a table that no program takes for formulas', () => {
    const use = { from: '2026-11-27', days: 1, series: [{ ...series('=1+1', 1) }, { ...series('a,"b"', 1) }] } as unknown as Use
    expect(csvOf(use).split('\n')[0]).toBe(`day,'=1+1,"a,""b"""`)
  })
  it('are drawn against few round numbers', () => {
    for (let i = 0; i < 200; i++) {
      const top = random(2_000_000)
      const levels = levelsOf(top)
      expect(levels.length).toBeLessThanOrEqual(5)
      expect(levels.at(-1)!).toBeGreaterThanOrEqual(top)
      expect(Number.isInteger(levels[1] ?? 0)).toBe(true)
    }
    expect(levelsOf(0)).toEqual([0])
  })
  it('know their days', () => {
    expect(dayAfter('2026-02-27', 2)).toBe('2026-03-01')
    expect(daysBetween('2026-10-24', '2026-10-26')).toBe(2)
    expect(gapsOf('2026-11-01', [{ from: '2026-11-03', until: '2026-11-03' }])).toEqual([[2, 3]])
  })
})
