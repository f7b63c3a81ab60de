// Two texts side by side: which lines belong together, and which words of two lines differ.

// A row has a line of each side, counted from 0; -1 where a side has none. Lines that stand beside each other and differ are a row, too.
export interface Row {
  old: number
  now: number
  same: boolean
}

// Beyond so many steps two texts are taken for different where they differ: what follows is no longer worth the time.
const mostSteps = 1000

// pairsOf finds the lines that two lists have in common, in order: Myers' algorithm over what is between a common beginning and end.
function pairsOf(a: string[], b: string[]): [number, number][] {
  let start = 0
  while (start < a.length && start < b.length && a[start] === b[start]) start++
  let end = 0
  while (end < a.length - start && end < b.length - start && a[a.length - 1 - end] === b[b.length - 1 - end]) end++
  const pairs: [number, number][] = []
  for (let i = 0; i < start; i++) pairs.push([i, i])
  for (const [i, j] of shortest(a.slice(start, a.length - end), b.slice(start, b.length - end))) pairs.push([i + start, j + start])
  for (let i = end; i > 0; i--) pairs.push([a.length - i, b.length - i])
  return pairs
}

function shortest(a: string[], b: string[]): [number, number][] {
  if (!a.length || !b.length) return []
  const most = Math.min(a.length + b.length, mostSteps)
  const reached = new Int32Array(2 * most + 3) // by diagonal, from -most-1
  const trace: Int32Array[] = []
  for (let d = 0; d <= most; d++) {
    trace.push(reached.slice(most - d, most + d + 3))
    for (let k = -d; k <= d; k += 2) {
      const at = k + most + 1
      let x = k === -d || (k !== d && reached[at - 1] < reached[at + 1]) ? reached[at + 1] : reached[at - 1] + 1
      while (x < a.length && x - k < b.length && a[x] === b[x - k]) x++
      reached[at] = x
      if (x >= a.length && x - k >= b.length) return back(a, b, trace)
    }
  }
  return []
}

// back goes the way again from its end: trace has, for each step, how far each diagonal had been reached before it, from the one below -d.
function back(a: string[], b: string[], trace: Int32Array[]): [number, number][] {
  const pairs: [number, number][] = []
  let [x, y] = [a.length, b.length]
  for (let d = trace.length - 1; d >= 0; d--) {
    const reached = (k: number) => trace[d][k + d + 1]
    const k = x - y
    const from = k === -d || (k !== d && reached(k - 1) < reached(k + 1)) ? k + 1 : k - 1
    const px = d === 0 ? 0 : reached(from)
    const py = d === 0 ? 0 : px - from
    while (x > px && y > py) pairs.push([--x, --y])
    ;[x, y] = [px, py]
  }
  return pairs.reverse()
}

// rowsOf lays two texts beside each other. What is between common lines stands line by line beside what took its place.
export function rowsOf(a: string[], b: string[]): Row[] {
  const rows: Row[] = []
  let [i, j] = [0, 0]
  const between = (p: number, q: number) => {
    while (i < p || j < q) rows.push({ old: i < p ? i++ : -1, now: j < q ? j++ : -1, same: false })
  }
  for (const [p, q] of pairsOf(a, b)) {
    between(p, q)
    rows.push({ old: i++, now: j++, same: true })
  }
  between(a.length, b.length)
  return rows
}

// A piece of a line: whether it differs from the other side's.
export interface Piece {
  text: string
  differs: boolean
}

const wordsOf = (line: string) => line.match(/\d+(?:\.\d+)+|[\p{L}\p{N}_]+|\s+|[^\p{L}\p{N}_\s]/gu) ?? []

// wordsApart marks what differs between two lines. Where lines have little in common no word is marked: they differ as a whole.
export function wordsApart(a: string, b: string): [Piece[], Piece[]] {
  const [x, y] = [wordsOf(a), wordsOf(b)]
  const pairs = pairsOf(x, y)
  const common = pairs.reduce((n, [i]) => n + x[i].trim().length, 0)
  if (common * 3 < Math.max(a.trim().length, b.trim().length)) return [[{ text: a, differs: false }], [{ text: b, differs: false }]]
  const pieces = (words: string[], shared: Set<number>) => {
    const out: Piece[] = []
    for (const [i, text] of words.entries()) {
      const differs = !shared.has(i)
      const last = out.at(-1)
      if (last && last.differs === differs) last.text += text
      else out.push({ text, differs })
    }
    return out
  }
  return [pieces(x, new Set(pairs.map(([i]) => i))), pieces(y, new Set(pairs.map(([, j]) => j)))]
}

// A stretch of rows that are shown, or that are alike on both sides and folded away.
export interface Stretch {
  from: number
  to: number
  folded: boolean
}

// folded keeps so many rows around what differs, and around rows that must be seen, and folds the rest.
export function folded(rows: Row[], around: number, seen: (row: Row) => boolean = () => false): Stretch[] {
  const show = new Uint8Array(rows.length)
  rows.forEach((row, i) => {
    if (row.same && !seen(row)) return
    for (let k = Math.max(0, i - around); k <= Math.min(rows.length - 1, i + around); k++) show[k] = 1
  })
  const out: Stretch[] = []
  for (let i = 0; i < rows.length; ) {
    let j = i
    while (j < rows.length && show[j] === show[i]) j++
    out.push({ from: i, to: j, folded: !show[i] && j - i > 2 })
    i = j
  }
  return out
}
