// Where one can go and what one can do, as somebody asks for it in a few letters.
import type { Act, Api } from './types'

export interface Placement {
  title: string
  where: string // what kind of place it is
  to: string // an address in the console, or outside of it where it begins with one of the service
  outside?: boolean
}

export interface Known {
  apis: Api[]
  api?: string // the one that is looked at
  may: (act: Act) => boolean // in one team at least
  manual: { title: string; in?: string; address: string }[]
}

// placesOf are all places: what concerns the API that is looked at first.
export function placesOf(known: Known): Placement[] {
  const all: Placement[] = []
  const here = known.apis.find((a) => a.name === known.api)
  for (const a of here ? [here, ...known.apis.filter((a) => a !== here)] : known.apis) {
    const at = `/apis/${a.name}`
    const of = a.title
    all.push({ title: `${a.title} ${a.name}`, where: 'API', to: at })
    const may = (act: Act) => a.may?.includes(act)
    if (may('record')) all.push({ title: `Record a version of ${of}`, where: 'act', to: `${at}/record` })
    if (may('announce')) all.push({ title: `Deprecate something of ${of}`, where: 'act', to: `${at}/deprecate` })
    if (may('arrange')) all.push({ title: `How the reference of ${of} looks`, where: 'act', to: `${at}/looks` })
    if (may('promise') || may('move')) all.push({ title: `What holds for ${of}: team, promise, notice period`, where: 'act', to: `${at}/settings` })
    all.push({ title: `Hold ${of} in another page`, where: 'act', to: `${at}/embed` })
    for (const [i, v] of [...a.versions].reverse().entries()) {
      const before = [...a.versions].reverse()[i + 1]
      const ref = `${a.name}@${v.number}`
      if (before) all.push({ title: `Compare ${ref} with ${before.number}`, where: 'spread', to: `${at}/compare/${before.number}..${v.number}` })
      if (v.state === 'draft' && may('read')) all.push({ title: `Publish ${ref}`, where: 'gate', to: `${at}/publish/${v.number}` })
      if (v.state !== 'draft' && v.state !== 'unpublished') all.push({ title: `Read ${ref}`, where: 'reference', to: `/reference/${a.name}/${v.number}/`, outside: true })
      if (may('word') && v.state !== 'retired') all.push({ title: `Word ${ref}`, where: 'act', to: `${at}/wording/${v.number}` })
    }
  }
  all.push({ title: 'Shelf', where: 'page', to: '/' }, { title: 'Shelves for readers', where: 'page', to: '/shelves' }, { title: 'Journal', where: 'page', to: '/journal' }, { title: 'People and teams', where: 'page', to: '/people' }, { title: 'Tokens', where: 'page', to: '/tokens' })
  if (known.may('record')) all.push({ title: 'Record a version', where: 'act', to: '/record' })
  if (known.may('teams')) all.push({ title: 'How the shelf of the house looks', where: 'act', to: '/apis/_/looks' })
  all.push({ title: 'Published reference', where: 'reference', to: '/reference/', outside: true })
  for (const m of known.manual) all.push({ title: m.title, where: m.in ? `manual, ${m.in}` : 'manual', to: m.address, outside: true })
  return all
}

const wordsOf = (text: string) => text.toLowerCase().split(/[^\p{L}\p{N}.]+/u).filter(Boolean)

// found are the places that have a word for each word of the question, or one that begins with it; those where more words are met whole,
// and that have less else, first.
export function found(all: Placement[], question: string, most: number): Placement[] {
  const asked = wordsOf(question)
  if (!asked.length) return all.slice(0, most)
  const scored: [number, number, Placement][] = []
  for (const [i, p] of all.entries()) {
    const words = wordsOf(p.title)
    const kind = wordsOf(p.where)
    let score = 0
    for (const a of asked) {
      const best = Math.max(0, ...words.map((w, n) => (w === a ? 4 : w.startsWith(a) ? 2 : 0) + (w.startsWith(a) && n === 0 ? 2 : 0)), ...kind.map((w) => (w.startsWith(a) ? 1 : 0)))
      if (!best) {
        score = 0
        break
      }
      score += best
    }
    if (score) scored.push([score - words.length / 20, i, p])
  }
  return scored.sort(([a, i], [b, j]) => b - a || i - j).slice(0, most).map(([, , p]) => p)
}
