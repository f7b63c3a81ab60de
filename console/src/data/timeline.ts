// Where versions stand on a time line, so that no mark and no word is printed over another.
export interface Moment {
  at: number
  label: string
}

// A mark stands for one version, or for several that cannot be told apart at this scale: those from first on, so many.
export interface Mark {
  x: number
  first: number
  count: number
  labelled: boolean
  above: number // the lane of its label: 0 is next to the line
}

export const nearest = 14 // pixels between two marks that can be told apart
const lanes = 3
const letter = 7.4 // the width of a character of a label

// marksOf places what happened on one line, in order: what is nearer than can be told apart is one mark, and labels take the lowest lane
// that is free, or are left out where none is.
export function marksOf(all: Moment[], x: (at: number) => number, width: number): Mark[] {
  const marks: Mark[] = []
  for (const [i, m] of all.entries()) {
    const at = x(m.at)
    const last = marks.at(-1)
    if (last && at - last.x < nearest) last.count++
    else marks.push({ x: at, first: i, count: 1, labelled: false, above: 0 })
  }
  const ends = Array.from({ length: lanes }, () => -Infinity)
  for (const m of marks) {
    if (m.x < -nearest || m.x > width + nearest) continue
    const half = (letter * labelOf(all, m).length) / 2 + 4
    const lane = ends.findIndex((end) => end <= m.x - half)
    if (lane < 0) continue
    ends[lane] = m.x + half
    m.labelled = true
    m.above = lane
  }
  return marks
}

export function labelOf(all: Moment[], m: Mark): string {
  if (m.count === 1) return all[m.first].label
  return `${all[m.first].label} … ${all[m.first + m.count - 1].label}`
}

// zoomed is a range of time around a moment that stays where it is, with bounds.
export function zoomed([from, to]: [number, number], around: number, factor: number, [first, last]: [number, number]): [number, number] {
  const least = 6 * 3600e3
  const span = Math.min(Math.max((to - from) * factor, least), last - first)
  const share = (around - from) / (to - from)
  return moved([around - share * span, around + (1 - share) * span], 0, [first, last])
}

// moved is a range moved in time, within bounds.
export function moved([from, to]: [number, number], by: number, [first, last]: [number, number]): [number, number] {
  const shift = Math.min(Math.max(by, first - from), last - to)
  return [from + shift, to + shift]
}

const day = 864e5
const steps: [number, (d: Date) => Date, Intl.DateTimeFormatOptions][] = [
  [day / 4, (d) => new Date(d.getTime() + day / 4), { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }],
  [day, (d) => new Date(d.getTime() + day), { day: 'numeric', month: 'short' }],
  [7 * day, (d) => new Date(d.getTime() + 7 * day), { day: 'numeric', month: 'short' }],
  [30 * day, (d) => month(d, 1), { month: 'short', year: 'numeric' }],
  [91 * day, (d) => month(d, 3), { month: 'short', year: 'numeric' }],
  [365 * day, (d) => month(d, 12), { year: 'numeric' }],
  [5 * 365 * day, (d) => month(d, 60), { year: 'numeric' }],
]
const month = (d: Date, n: number) => new Date(Date.UTC(d.getUTCFullYear(), d.getUTCMonth() + n, 1))

// ticksOf are the moments that are named below the line: as many as can be read.
export function ticksOf([from, to]: [number, number], width: number): { at: number; text: string }[] {
  const most = Math.max(1, width / 110)
  const [size, next, words] = steps.find(([size]) => (to - from) / size <= most) ?? steps[steps.length - 1]
  const start = new Date(from)
  let at = size < 30 * day ? new Date(Math.ceil(from / Math.min(size, day)) * Math.min(size, day)) : new Date(Date.UTC(start.getUTCFullYear(), size < 365 * day ? start.getUTCMonth() : 0, 1))
  const out = []
  while (at.getTime() < from) at = next(at)
  for (; at.getTime() <= to; at = next(at)) out.push({ at: at.getTime(), text: at.toLocaleDateString('en-GB', { ...words, timeZone: 'UTC' }) })
  return out
}
