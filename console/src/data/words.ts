// The words and marks of the house.
import type { Comparison, Diagnostics, Grade, Notice, Removal, Witness } from './types'

export const grades: Grade[] = ['breaking', 'hazard', 'safe', 'editorial']
export const marks: Record<Grade, string> = { breaking: '✕', hazard: '!', safe: '✓', editorial: '·' }

export function day(stamp: string): string {
  const date = new Date(stamp.slice(0, 10) + 'T00:00:00Z')
  return date.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' })
}

export function verdict(c: Comparison): string {
  if (c.changes.length === 0) return 'Nothing changed.'
  const { old, new: now } = c
  const forth = { breaking: `Clients of ${old.version} will fail on ${now.version}.`, hazard: `Clients of ${old.version} go on, with hazards.` } as Record<Grade, string>
  const back = { breaking: `A rollback to ${old.version} will fail.`, hazard: 'A rollback has hazards.' } as Record<Grade, string>
  return `${forth[c.backward] ?? `Clients of ${old.version} go on.`} ${back[c.forward] ?? 'A rollback is safe.'}`
}

export function tally(t: Diagnostics): string {
  const parts = ([['error', t.errors], ['warning', t.warnings], ['hint', t.hints]] as const).filter(([, n]) => n).map(([noun, n]) => `${n} ${noun}${n === 1 ? '' : 's'}`)
  return parts.length > 1 ? `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}` : (parts[0] ?? '')
}

export function subject(n: Notice): string {
  let what = n.version ? `version ${n.version}` : n.line ? `line ${n.line}` : 'the whole API'
  let part = ''
  if (n.parameter) part = `${n.parameter.split(' ')[1]} of ${n.operation}`
  else if (n.header) part = `${n.header} of the answers to ${n.operation}`
  else if (n.operation) part = n.operation
  else if (n.field) {
    const [schema, property] = n.field.split('.')
    part = `${property} of ${schema}`
  }
  if (n.value) part = `the value ${n.value} of ${part}`
  if (part) what += `, ${part}`
  return what
}

export function refuser(w: Witness, c: Comparison): string {
  const [built, other] = w.direction === 'backward' ? [c.old.version, c.new.version] : [c.new.version, c.old.version]
  const called = w.operation.startsWith('webhook ') || w.operation.startsWith('callback ')
  const answer = w.position.startsWith('response')
  if (!called && answer) return `a client of ${built}`
  if (called && !answer) return `a receiver for ${built}`
  return other
}

// component is the shared part in which a change was made, or "".
export function component(pointers: (string | undefined)[]): string {
  for (const p of pointers) {
    const found = p?.match(/^\/components\/[^/]+\/([^/]+)/)
    if (found) return found[1]
  }
  return ''
}

export const count = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`

// announced says how a removal was announced.
export function announced(r: Removal): string {
  if (!r.notice) return 'nobody announced it'
  if (!r.notice.sunset) return 'announced, without a date'
  return r.announced ? `announced, and its date has passed: ${day(r.notice.sunset)}` : `announced to leave on ${day(r.notice.sunset)}, not before`
}
