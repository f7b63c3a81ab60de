// The words and marks of the house.
import type { Grade } from './types'

export const grades: Grade[] = ['breaking', 'hazard', 'safe', 'editorial']
export const marks: Record<Grade, string> = { breaking: '✕', hazard: '!', safe: '✓', editorial: '·' }

export function day(stamp: string): string {
  const date = new Date(stamp.slice(0, 10) + 'T00:00:00Z')
  return date.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' })
}

export const count = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`

// sentence begins with a capital letter.
export const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1)
