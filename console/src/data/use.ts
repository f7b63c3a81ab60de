// Calls as pictures and tables have them: stacked day by day, with a table that says the same.
import type { DaySpan, Use, UseSeries } from './types'

export interface Band {
  name: string
  title: string
  known: boolean
  days: number[]
  calls: number
}

const dayMs = 864e5

// The day that lies so many days behind another one: 2026-11-27.
export const dayAfter = (from: string, n: number) => new Date(Date.parse(from + 'T00:00:00Z') + n * dayMs).toISOString().slice(0, 10)
export const daysBetween = (from: string, to: string) => Math.round((Date.parse(to + 'T00:00:00Z') - Date.parse(from + 'T00:00:00Z')) / dayMs)

// The bands of a picture: the most called, and all others as one where they are more. In the order of the series.
export function bandsOf(series: UseSeries[], most = 7): Band[] {
  const band = (s: UseSeries): Band => ({ name: s.name, title: s.title || s.name || 'nobody known', known: s.known, days: s.days, calls: s.calls })
  if (series.length <= most) return series.map(band)
  const large = [...series].sort((a, b) => b.calls - a.calls).slice(0, most - 1)
  const rest = series.filter((s) => !large.includes(s))
  const others: Band = { name: '', title: `${rest.length} others`, known: true, days: rest[0].days.map((_, i) => rest.reduce((sum, s) => sum + s.days[i], 0)), calls: rest.reduce((sum, s) => sum + s.calls, 0) }
  return [...series.filter((s) => large.includes(s)).map(band), others]
}

// The upper edge of each band, day by day: the first one lies lowest.
export function edgesOf(bands: Band[]): number[][] {
  const edges: number[][] = []
  for (const b of bands) edges.push(b.days.map((n, i) => n + (edges.at(-1)?.[i] ?? 0)))
  return edges
}

// Where lines are drawn across: few, at round numbers, the last one not below the top.
export function levelsOf(top: number): number[] {
  if (top <= 0) return [0]
  const rough = top / 3
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = Math.max(1, [1, 2, 5, 10].map((n) => n * power).find((n) => n >= rough) ?? 10 * power)
  const levels = [0]
  while (levels.at(-1)! < top) levels.push(levels.at(-1)! + step)
  return levels
}

// What of a time no log tells, as indices from the first to behind the last.
export const gapsOf = (from: string, missing: DaySpan[]): [number, number][] => missing.map((m) => [daysBetween(from, m.from), daysBetween(from, m.until) + 1])

// cell is a text that no program that opens tables takes for a formula.
const cell = (text: string) => {
  const safe = /^[=+\-@\t]/.test(text) ? "'" + text : text
  return /[",\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe
}

// Rows as a table that every program opens.
export const csvText = (rows: string[][]) => rows.map((r) => r.map(cell).join(',')).join('\n') + '\n'

// A line for each day, a column for each series.
export function csvOf(use: Use): string {
  return csvText([['day', ...use.series.map((s) => s.name || 'nobody known')], ...Array.from({ length: use.days }, (_, i) => [dayAfter(use.from, i), ...use.series.map((s) => String(s.days[i]))])])
}

export function save(name: string, content: Blob) {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(content)
  a.download = name
  a.click()
  setTimeout(() => URL.revokeObjectURL(a.href), 1000)
}

// A drawing as a picture: with the colours that it has on the page, twice as large.
export async function pngOf(svg: SVGSVGElement): Promise<Blob> {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const drawn = [svg, ...svg.querySelectorAll<SVGElement>('*')]
  const copied = [copy, ...copy.querySelectorAll<SVGElement>('*')]
  drawn.forEach((e, i) => {
    const s = getComputedStyle(e)
    for (const p of ['fill', 'fill-opacity', 'stroke', 'stroke-width', 'stroke-dasharray', 'font', 'text-anchor', 'opacity']) copied[i].style.setProperty(p, s.getPropertyValue(p))
  })
  const { width, height } = svg.getBoundingClientRect()
  copy.setAttribute('width', String(width))
  copy.setAttribute('height', String(height))
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  const image = new Image()
  image.src = 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(new XMLSerializer().serializeToString(copy))
  await image.decode()
  const canvas = document.createElement('canvas')
  ;[canvas.width, canvas.height] = [width * 2, height * 2]
  const paint = canvas.getContext('2d')!
  paint.fillStyle = getComputedStyle(document.documentElement).getPropertyValue('--sheet')
  paint.fillRect(0, 0, canvas.width, canvas.height)
  paint.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((done, fail) => canvas.toBlob((b) => (b ? done(b) : fail(new Error('this browser makes no picture of it'))), 'image/png'))
}

export const number = (n: number) => n.toLocaleString('en-GB')
export const share = (n: number, of: number) => (of ? `${((100 * n) / of).toFixed(1)} %` : '0 %')
