import { expect, it } from 'vitest'
import { found, placesOf } from './places'
import type { Act, Api } from './types'

const all: Act[] = ['read', 'record', 'publish', 'announce', 'word', 'arrange', 'promise']
const api = (name: string, title: string, ...versions: [string, string][]) =>
  ({ name, title, may: all, versions: versions.map(([number, state]) => ({ number, state })), notices: [] }) as unknown as Api
const apis = [api('berths', 'Berth Booking', ['1.0.0', 'published'], ['1.1.0', 'draft']), api('tides', 'Tide Tables', ['1.0.0', 'published'])]
const manual = [{ title: 'Waivers', in: 'The ledger', address: '/manual/ledger#waivers' }]
const editor = placesOf({ apis, api: 'tides', may: (a) => all.includes(a), manual })
const first = (question: string, places = editor) => found(places, question, 3)[0]?.to

it('begins with the API that is looked at', () => expect(first('')).toBe('/apis/tides'))

it('finds places and acts by a few letters', () => {
  expect(first('berth')).toBe('/apis/berths')
  expect(first('pub 1.1')).toBe('/apis/berths/publish/1.1.0')
  expect(first('compare berths')).toBe('/apis/berths/compare/1.0.0..1.1.0')
  expect(first('dep berth')).toBe('/apis/berths/deprecate')
  expect(first('journal')).toBe('/journal')
  expect(first('waiv')).toBe('/manual/ledger#waivers')
  expect(first('read tides')).toBe('/reference/tides/1.0.0/')
  expect(found(editor, 'nothing like it', 9)).toEqual([])
})

it('offers nobody what they may not do', () => {
  const reader = placesOf({ apis: apis.map((a) => ({ ...a, may: [] })), may: () => false, manual })
  const acts = (places: typeof editor) => places.map((p) => p.to).filter((to) => /record|deprecate|publish|wording|looks|settings/.test(to))
  expect(acts(reader)).toEqual([])
  // Of one team's API all, of another's nothing.
  const lead = placesOf({ apis: apis.map((a) => ({ ...a, may: a.name === 'tides' ? all : [] })), may: (a) => all.includes(a), manual })
  expect(acts(lead).filter((to) => to.includes('berths'))).toEqual([])
  expect(acts(lead)).toContain('/apis/tides/record')
})
