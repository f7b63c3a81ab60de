// The shelf as it is looked for: by words, team, state, in an order.
import type { Api, Version } from './types'

export type Order = 'title' | '-title' | 'team' | '-team' | 'newest' | '-newest'

export interface Sought {
  words: string
  team: string
  only: string // "drafts", "leaving", "unpublished", or "" for all
  order: Order
}

export interface Row {
  api: Api
  newest?: Version
  drafts: Version[]
  leaves?: string // the next day on which something leaves
}

export function shelved(apis: Api[], sought: Sought): Row[] {
  const words = sought.words.toLowerCase().split(/\s+/).filter(Boolean)
  const rows = apis
    .filter((a) => !sought.team || a.team === sought.team)
    .filter((a) => {
      const text = [a.title, a.name, a.team, ...a.versions.map((v) => `${a.name}@${v.number}`)].join(' ').toLowerCase()
      return words.every((w) => text.includes(w))
    })
    .map((api): Row => ({
      api,
      newest: [...api.versions].reverse().find((v) => v.state !== 'draft' && v.state !== 'unpublished'),
      drafts: api.versions.filter((v) => v.state === 'draft'),
      leaves: api.notices.flatMap((n) => (n.sunset ? [n.sunset] : [])).sort()[0],
    }))
    .filter((r) => (sought.only === 'drafts' ? r.drafts.length > 0 : sought.only === 'leaving' ? r.api.notices.length > 0 : sought.only === 'unpublished' ? !r.newest : true))
  const by = sought.order.replace('-', '')
  const key = (r: Row) => (by === 'team' ? r.api.team : by === 'newest' ? (r.newest?.publishedAt ?? '') : r.api.title)
  const way = sought.order.startsWith('-') ? -1 : 1
  // What is newest is looked for first, names from A on.
  const first = by === 'newest' ? -way : way
  return rows.sort((a, b) => first * key(a).localeCompare(key(b)) || a.api.title.localeCompare(b.api.title))
}
