// How findings stand beside the text in which they were made.
import type { DescriptionFile, Finding } from './types'

// Row is one line of a text, with what is found there; or a gap, where lines are left out.
export interface Row {
  line: number
  text: string
  findings: Finding[]
  gap?: number // how many lines are left out here
}

// Sheet is one file with its rows.
export interface Sheet {
  path: string
  rows: Row[]
}

// weights are those of severities, the worst first.
export const weights = ['error', 'warning', 'hint'] as const

// fileOf is the file in which a finding stands: their names may have a folder in front.
const fileOf = (f: Finding, files: DescriptionFile[]) => files.find((o) => o.path === f.file) ?? files.find((o) => f.file.endsWith('/' + o.path)) ?? files[0]

// sheets are the files with findings, and of each the lines around them; around is how many, or all.
export function sheets(files: DescriptionFile[], findings: Finding[], around: number): Sheet[] {
  const of = new Map<DescriptionFile, Finding[]>()
  for (const f of findings) {
    const file = fileOf(f, files)
    if (file) of.set(file, [...(of.get(file) ?? []), f])
  }
  return files.flatMap((file) => {
    const found = of.get(file)
    return found ? [{ path: file.path, rows: rows(file.text.split('\n'), found, around) }] : []
  })
}

function rows(lines: string[], findings: Finding[], around: number): Row[] {
  const at = new Map<number, Finding[]>()
  for (const f of findings) at.set(f.line, [...(at.get(f.line) ?? []), f])
  const shown = new Set<number>()
  for (const line of at.keys()) for (let n = line - around; n <= line + around; n++) if (n >= 1 && n <= lines.length) shown.add(n)
  const all: Row[] = []
  let last = 0
  for (const line of [...shown].sort((a, b) => a - b)) {
    if (line > last + 1) all.push({ line: last + 1, text: '', findings: [], gap: line - last - 1 })
    all.push({ line, text: (lines[line - 1] ?? '').replace(/\r$/, ''), findings: (at.get(line) ?? []).sort((a, b) => weights.indexOf(a.severity) - weights.indexOf(b.severity)) })
    last = line
  }
  if (last < lines.length) all.push({ line: last + 1, text: '', findings: [], gap: lines.length - last })
  return all
}

// scoreWords say how much of a description follows the style.
export const score = (parts: number, clean: number): string => (parts ? `${Math.floor((100 * clean) / parts)} %` : '')
