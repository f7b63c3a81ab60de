// A comparison as it is read: in one direction, by grade, in groups.
import type { Change, Grade } from './types'

export type Direction = 'backward' | 'forward'
export type Grouping = 'none' | 'operation' | 'component'

const order: Grade[] = ['breaking', 'hazard', 'safe', 'editorial']

export interface Group {
  title: string
  changes: Change[]
}

// sorted are the changes with the worst first, in the direction that is looked at.
export function sorted(changes: Change[], direction: Direction): Change[] {
  return [...changes].sort((a, b) => order.indexOf(a[direction]) - order.indexOf(b[direction]))
}

// groupsOf puts changes together that are felt at one operation, or that were made in one component. What is felt at several stands first.
export function groupsOf(changes: Change[], by: Grouping, paths: Record<string, string> = {}): Group[] {
  if (by === 'none') return [{ title: '', changes }]
  const groups = new Map<string, Change[]>()
  for (const c of changes) {
    const title = by === 'operation' ? operationOf(c, paths) : (c.new?.component ?? c.old?.component ?? 'Outside of components')
    groups.set(title, [...(groups.get(title) ?? []), c])
  }
  const rank = (title: string) => (title === several || title === whole ? 0 : 1)
  return [...groups].map(([title, changes]) => ({ title, changes })).sort((a, b) => rank(a.title) - rank(b.title) || a.title.localeCompare(b.title))
}

const several = 'Several operations'
const whole = 'The description'

function operationOf(c: Change, paths: Record<string, string>) {
  if (c.reach.length > 1) return several
  const [only] = c.reach
  return only ? (paths[only] ?? only) : whole
}

// The lines of the element that begins at a line, counted from 0: those that are indented deeper, up to the next that is not.
export function blockAt(lines: string[], at: number): [number, number] {
  const indent = (s: string) => s.search(/\S/)
  if (at >= lines.length) return [lines.length, lines.length]
  let end = at + 1
  while (end < lines.length && (lines[end].trim() === '' || indent(lines[end]) > indent(lines[at]))) end++
  while (end > at + 1 && lines[end - 1].trim() === '') end--
  // In JSON, what closes the element stands as deep as it.
  if (end < lines.length && /^\s*[\]}]/.test(lines[end]) && indent(lines[end]) === indent(lines[at]) && /[[{]\s*$/.test(lines[at])) end++
  return [at, end]
}
