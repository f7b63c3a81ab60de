import { expect, it } from 'vitest'
import { shelved, type Sought } from './shelf'
import type { Api } from './types'

const api = (name: string, team: string, published: string, draft = false, sunset = '') =>
  ({
    name, title: name.toUpperCase(), team, promise: 'backward', notices: sunset ? [{ sunset }] : [],
    versions: [{ number: '1.0.0', state: published ? 'published' : 'draft', publishedAt: published }, ...(draft ? [{ number: '1.1.0', state: 'draft' }] : [])],
  }) as unknown as Api
const apis = [api('tides', 'Navigation', '2026-03-01', true), api('berths', 'Quayside', '2026-05-01', false, '2027-01-01'), api('dues', 'Quayside', '')]
const names = (sought: Partial<Sought>) => shelved(apis, { words: '', team: '', only: '', order: 'title', ...sought }).map((r) => r.api.name).join(' ')

it('finds, filters and sorts', () => {
  expect(names({})).toBe('berths dues tides')
  expect(names({ order: '-title' })).toBe('tides dues berths')
  expect(names({ order: 'newest' })).toBe('berths tides dues')
  expect(names({ order: 'team' })).toBe('tides berths dues')
  expect(names({ words: 'quay' })).toBe('berths dues')
  expect(names({ words: 'tides@1.1' })).toBe('tides')
  expect(names({ team: 'Quayside', words: 'b' })).toBe('berths')
  expect(names({ only: 'drafts' })).toBe('dues tides')
  expect(names({ only: 'leaving' })).toBe('berths')
  expect(names({ only: 'unpublished' })).toBe('dues')
})
