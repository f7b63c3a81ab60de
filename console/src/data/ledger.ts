// The calls of the HTTP interface. What the ledger refuses is thrown as a Refusal.
import type { OverlayDocument } from './overlay'
import type { JsonObject } from './json'
import type { AddedLog, AddedRecording, Api, Audience, AudienceWish, Calling, Comparison, Consumer, ConsumerGuide, ConsumerWish, Decision, DescriptionFile, Entry, Findings, Gate, Grant, Guide, Impact, Invitation, Lineup, LineupClient, Link, LinkWish, Log, Looks, NewCredential, NewFeed, NewLink, Notice, Overlay, Person, Picture, Plan, PlanWish, Preview, Problem, Readiness, Recorded, Release, Overview, Reliance, Replay, Request, RequestWish, Rules, Session, Shelf, ShelfWish, Sign, Style, StyleWish, Team, TokenEntry, Unmatched, Use, Verification, Version, Waiting } from './types'
import { signedInAgain } from './expired'
import { isArchive, type Upload } from './upload'

export class Refusal extends Error {
  constructor(public problem: Problem) {
    super(problem.detail || problem.title)
  }
}

async function call<T>(method: string, path: string, body?: BodyInit, type: string | null = 'application/json', more: Record<string, string> = {}): Promise<T> {
  let answer: Response
  try {
    answer = await fetch('/api/v1' + path, { method, body, headers: body === undefined || type === null ? more : { ...more, 'Content-Type': type } })
  } catch {
    throw new Refusal({ type: 'about:blank', title: 'Not reached', status: 0, detail: 'The ledger cannot be reached. Is it running?', trace: '' })
  }
  if (answer.status === 401 && path !== '/me' && path !== '/sign-in') {
    await signedInAgain()
    return call(method, path, body, type, more)
  }
  const text = await answer.text()
  if (!answer.ok) {
    let problem: Problem = { type: 'about:blank', title: answer.statusText, status: answer.status, detail: text, trace: '' }
    if (answer.headers.get('Content-Type')?.includes('json')) problem = JSON.parse(text) as Problem
    throw new Refusal(problem)
  }
  if (answer.headers.get('Content-Type')?.includes('json')) return JSON.parse(text) as T
  return text as T
}

async function page<T>(address: string): Promise<T> {
  const answer = await fetch(address)
  if (!answer.ok) throw new Error(`${address} answers ${answer.status}.`)
  return (await answer.json()) as T
}

const get = <T>(path: string) => call<T>('GET', path)
const post = <T>(path: string, body: unknown) => call<T>('POST', path, JSON.stringify(body))
const ref = (r: string) => encodeURIComponent(r)
const pair = (old: string, now: string) => `old=${ref(old)}&new=${ref(now)}`

export const ledger = {
  me: () => get<Person>('/me'),
  signIn: (name: string, password: string) => post<Person>('/sign-in', { name, password }),
  signOut: () => call<string>('POST', '/sign-out'),
  provider: async () => (await page<{ provider: string }>('/sign-in/ways')).provider,
  // Where whoever was signed in by the provider signs out there, too; '' for nowhere.
  providerOut: async () => (await page<{ to: string }>('/sign-in/provider/out')).to,
  people: async () => (await get<{ items: Person[] }>('/people')).items,
  addPerson: (p: { name: string; full: string; role: string }) => post<Person>('/people', p),
  invite: (name: string) => post<Invitation>(`/people/${ref(name)}/invitation`, {}),
  invited: (key: string, password?: string) => post<Person>('/invitations', { key, password }),
  changePassword: (old: string, fresh: string) => call<string>('PUT', '/me/password', JSON.stringify({ old, new: fresh })),
  sessions: async () => (await get<{ items: Session[] }>('/me/sessions')).items,
  endSessions: () => call<string>('DELETE', '/me/sessions'),
  setRole: (name: string, role: string) => call<string>('PATCH', '/people/' + ref(name), JSON.stringify({ role })),
  dropPerson: (name: string) => call<string>('DELETE', '/people/' + ref(name)),
  teams: async () => (await get<{ items: Team[] }>('/teams')).items,
  addTeam: (name: string) => post<string>('/teams', { name }),
  dropTeam: (name: string) => call<string>('DELETE', '/teams/' + ref(name)),
  putMember: (team: string, person: string, role: string) => call<string>('PUT', `/teams/${ref(team)}/members/${ref(person)}`, JSON.stringify({ role })),
  dropMember: (team: string, person: string) => call<string>('DELETE', `/teams/${ref(team)}/members/${ref(person)}`),
  tokens: async () => (await get<{ items: TokenEntry[] }>('/tokens')).items,
  makeToken: (wish: { label: string; scopes: string[]; teams: string[]; apis: string[]; days: number }) => post<{ token: string }>('/tokens', wish),
  dropToken: (id: string) => call<string>('DELETE', '/tokens/' + ref(id)),
  waiting: () => get<Waiting>('/waiting'),
  seeAs: (as: string) => call<string>('PUT', '/me/view', JSON.stringify({ as })),
  seeNoMore: () => call<string>('DELETE', '/me/view'),
  feed: async () => (await get<{ madeAt: string }>('/me/feed')).madeAt,
  makeFeed: () => post<NewFeed>('/me/feed', {}),
  dropFeed: () => call<string>('DELETE', '/me/feed'),
  audience: () => get<Audience>('/audience'),
  // Of an API, or of every one of which nothing else is said where the name is ''.
  setAudience: (name: string, wish: AudienceWish) => call<string>('PATCH', name ? `/apis/${ref(name)}/audience` : '/audience', JSON.stringify(wish)),
  links: async (name: string) => (await get<{ items: Link[] }>(`/apis/${ref(name)}/links`)).items,
  makeLink: (name: string, wish: LinkWish) => post<NewLink>(`/apis/${ref(name)}/links`, wish),
  withdrawLink: (name: string, id: string) => call<string>('DELETE', `/apis/${ref(name)}/links/${ref(id)}`),
  shelves: async () => (await get<{ items: Shelf[] }>('/shelves')).items,
  setShelf: (name: string, wish: ShelfWish) => call<string>('PATCH', '/shelves/' + ref(name), JSON.stringify(wish)),
  dropShelf: (name: string) => call<string>('DELETE', '/shelves/' + ref(name)),
  place: (shelf: string, api: string, versions: string[]) => call<string>('PUT', `/shelves/${ref(shelf)}/apis/${ref(api)}`, JSON.stringify({ versions })),
  unplace: (shelf: string, api: string) => call<string>('DELETE', `/shelves/${ref(shelf)}/apis/${ref(api)}`),
  consumers: async (find = '', after = '', limit = 1000) => (await get<{ items: Consumer[] }>(`/consumers?${new URLSearchParams({ find, cursor: after, limit: String(limit) })}`)).items,
  consumer: (name: string) => get<Consumer>('/consumers/' + ref(name)),
  setConsumer: (name: string, wish: ConsumerWish) => call<string>('PATCH', '/consumers/' + ref(name), JSON.stringify(wish)),
  dropConsumer: (name: string) => call<string>('DELETE', '/consumers/' + ref(name)),
  setSigns: (name: string, signs: { team?: string; knownBy: Sign[] }) => call<string>('PUT', `/consumers/${ref(name)}/signs`, JSON.stringify(signs)),
  logs: async () => (await get<{ items: Log[] }>('/logs')).items,
  addLog: (file: File, mapping: string) => call<AddedLog>('POST', `/logs?${new URLSearchParams({ name: file.name.slice(0, 100), ...(mapping && { mapping }) })}`, file, 'application/octet-stream'),
  unmatched: async () => (await get<{ items: Unmatched[] }>('/unmatched')).items,
  use: (name: string, asked: Record<string, string>) => get<Use>(`/apis/${ref(name)}/use?${new URLSearchParams(asked)}`),
  impact: (old: string, now: string) => get<Impact>('/impact?' + pair(old, now)),
  ready: (of: string) => get<Readiness>(`/readiness?${new URLSearchParams({ of })}`),
  consumerGuides: async (name: string) => (await get<{ items: ConsumerGuide[] }>(`/consumers/${ref(name)}/guides`)).items,
  setStep: (name: string, step: { api: string; old: string; new: string; step: string; done: boolean }) => call<string>('PUT', `/consumers/${ref(name)}/guides/steps`, JSON.stringify(step)),
  overview: (from: string, until: string) => get<Overview>(`/overview?${new URLSearchParams({ ...(from && { from }), ...(until && { until }) })}`),
  reliance: (consumer: string) => get<Reliance>(`/consumers/${ref(consumer)}/reliance`),
  setReliance: (consumer: string, text: string) => call<string>('PUT', `/consumers/${ref(consumer)}/reliance`, JSON.stringify({ text })),
  addRecording: (consumer: string, name: string, version: string, archive: File) => call<AddedRecording>('PUT', `/consumers/${ref(consumer)}/recordings/${ref(name)}?${new URLSearchParams({ version })}`, archive, 'application/json'),
  setGuards: (consumer: string, name: string, guards: boolean) => call<string>('PATCH', `/consumers/${ref(consumer)}/recordings/${ref(name)}`, JSON.stringify({ guards })),
  dropRecording: (consumer: string, name: string) => call<string>('DELETE', `/consumers/${ref(consumer)}/recordings/${ref(name)}`),
  replay: (consumer: string, against: string) => get<Replay>(`/consumers/${ref(consumer)}/replay?${new URLSearchParams({ against })}`),
  lineupClients: async (name: string) => (await get<{ items: LineupClient[] }>(`/apis/${ref(name)}/lineup/clients`)).items,
  plans: async (name: string) => (await get<{ items: Plan[] }>(`/apis/${ref(name)}/plans`)).items,
  setPlan: (name: string, plan: string, wish: PlanWish) => call<string>('PUT', `/apis/${ref(name)}/plans/${ref(plan)}`, JSON.stringify(wish)),
  dropPlan: (name: string, plan: string) => call<string>('DELETE', `/apis/${ref(name)}/plans/${ref(plan)}`),
  requests: async () => (await get<{ items: Request[] }>('/requests')).items,
  ask: (wish: RequestWish) => post<{ id: number }>('/requests', wish),
  decide: (id: number, decision: Decision) => post<string>(`/requests/${id}/decisions`, decision),
  grants: async (api: string, consumer: string) => (await get<{ items: Grant[] }>(`/grants?${new URLSearchParams({ ...(api && { api }), ...(consumer && { consumer }) })}`)).items,
  endGrant: (consumer: string, api: string, line: string, reason: string) => call<string>('DELETE', `/consumers/${ref(consumer)}/apis/${ref(api)}/lines/${ref(line)}?${new URLSearchParams({ reason })}`),
  makeCredential: (consumer: string, api: string, overlap: number) => post<NewCredential>(`/consumers/${ref(consumer)}/apis/${ref(api)}/credentials`, { overlap }),
  endCredential: (consumer: string, api: string, id: string) => call<string>('DELETE', `/consumers/${ref(consumer)}/apis/${ref(api)}/credentials/${ref(id)}`),
  apis: async () => (await get<{ items: Api[] }>('/apis?limit=1000')).items,
  api: (name: string) => get<Api>('/apis/' + ref(name)),
  version: (r: string) => get<Version>('/versions/' + ref(r)),
  headers: async (r: string) => (await get<{ items: GatewayHeader[] }>(`/versions/${ref(r)}/headers`)).items,
  calling: (name: string) => get<Calling>(`/apis/${encodeURIComponent(name)}/calling`),
  style: (of: string) => get<Style>(`${of}/style`),
  putStyle: (of: string, wish: StyleWish) => call<string>('PUT', `${of}/style`, JSON.stringify(wish)),
  rules: (api: string) => get<Rules>('/rules' + (api ? `?api=${encodeURIComponent(api)}` : '')),
  findings: (r: string) => get<Findings>(`/versions/${ref(r)}/findings`),
  mend: (r: string, digest: string, findings: string[]) => call<{ mended: number; version: Version }>('POST', `/versions/${ref(r)}/mending`, JSON.stringify({ digest, findings })),
  history: async (name: string) => (await get<{ items: Release[] }>(`/apis/${ref(name)}/history`)).items,
  files: (r: string) => get<DescriptionFile[]>(`/versions/${ref(r)}/files`),
  lineup: (name: string) => get<Lineup>(`/apis/${ref(name)}/lineup`),
  compare: (old: string, now: string) => get<Comparison>('/comparison?' + pair(old, now)),
  guide: (old: string, now: string) => get<Guide>('/guide?' + pair(old, now)),
  writeGuide: (text: { old: string; new: string; anchor: string; text: string }) => call<Guide>('PUT', '/guide/texts', JSON.stringify(text)),
  gate: (r: string) => get<Gate>(`/versions/${ref(r)}/gate`),
  publish: (r: string, waivers: { change: string; reason: string }[], allowed: { finding: string; reason: string }[] = []) => post<Version>(`/versions/${ref(r)}/publication`, { waivers, allowed }),
  unpublish: (r: string, reason: string) => call<Version>('DELETE', `/versions/${ref(r)}/publication`, JSON.stringify({ reason })),
  retire: (r: string, reason: string, despite = '') => post<Version>(`/versions/${ref(r)}/retirement`, { reason, ...(despite && { despite }) }),
  discard: (r: string) => call<string>('DELETE', `/versions/${ref(r)}`),
  discardApi: (name: string) => call<string>('DELETE', '/apis/' + ref(name)),
  overlay: (r: string) => get<Overlay>(`/versions/${ref(r)}/overlay`),
  wording: (r: string) => get<{ written: JsonObject; worded: JsonObject }>(`/versions/${ref(r)}/wording`),
  putOverlay: (r: string, document: OverlayDocument, read: string) => call<Overlay>('PUT', `/versions/${ref(r)}/overlay`, JSON.stringify(document, null, 2), 'application/json', read ? { 'If-Match': `"${read}"` } : {}),
  showOverlay: (r: string) => post<Overlay>(`/versions/${ref(r)}/overlay/shown`, {}),
  dropOverlay: (r: string) => call<string>('DELETE', `/versions/${ref(r)}/overlay`),
  show: (r: string, days = 7) => post<Preview>(`/versions/${ref(r)}/previews`, { days }),
  previews: async (r: string) => (await get<{ items: Preview[] }>(`/versions/${ref(r)}/previews`)).items,
  withdraw: (r: string, id: string) => call<string>('DELETE', `/versions/${ref(r)}/previews/${ref(id)}`),
  looks: (name: string) => get<Looks>('/looks/' + ref(name)),
  putLooks: (name: string, looks: Looks) => call<Looks>('PUT', '/looks/' + ref(name), JSON.stringify(looks)),
  pictures: async (name: string) => (await get<{ items: Picture[] }>(`/looks/${ref(name)}/pictures`)).items,
  putPicture: (name: string, picture: string, content: Blob) => call<Picture>('PUT', `/looks/${ref(name)}/pictures/${ref(picture)}`, content, content.type || 'application/octet-stream'),
  dropPicture: (name: string, picture: string) => call<string>('DELETE', `/looks/${ref(name)}/pictures/${ref(picture)}`),
  deprecate: (notice: Record<string, unknown>) => post<Notice>('/notices', notice),
  amend: (id: number, change: Record<string, string>) => call<Notice>('PATCH', `/notices/${id}`, JSON.stringify(change)),
  set: (name: string, settings: Settings) => call<Api>('PATCH', '/apis/' + ref(name), JSON.stringify(settings)),
  preview: (files: Upload, api: string, team = '') => submit('/dry-runs', files, api, team),
  record: (files: Upload, api: string, team = '') => submit('/recordings', files, api, team),
  // The newest entries before one that are asked for; from the last one on where it is 0.
  journal: async (before: number, limit: number, asked: Record<string, string> = {}) =>
    (await get<{ items: Entry[] }>(`/journal?${new URLSearchParams({ order: 'newest', limit: String(limit), cursor: String(before), ...asked })}`)).items,
  verifyJournal: () => get<Verification>('/journal/verification'),
  // What the service serves beside its interface.
  // A page of a preview with an overlay that is being written, or as it is kept.
  sketch: async (address: string, overlay: OverlayDocument | null) => {
    const answer = await (overlay ? fetch(address, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(overlay) }) : fetch(address))
    const text = await answer.text()
    if (!answer.ok) throw new Error(new DOMParser().parseFromString(text, 'text/html').querySelector('main p')?.textContent ?? 'it cannot be shown')
    return text
  },
  manual: () => page<{ title: string; in?: string; address: string }[]>('/manual/contents.json'),
  // The parts of a published version that another page can hold, by their addresses.
  parts: async (name: string, number: string) => (await page<{ value: string; label: string }[]>(`/embed/${ref(name)}/${ref(number)}/parts.json`)),
  find: async (question: string) => (await page<{ found: Hit[] }>('/reference/search.json?q=' + ref(question))).found,
}

// What can be set of an API; what is missing stays as it is.
export interface Settings {
  team?: string
  noticeDays?: number
  promise?: string
  line?: string
  reason?: string
  versioning?: string
  undeclared?: string
}

// What a gateway sends with the answers of an operation.
export interface GatewayHeader {
  method: string
  path: string
  deprecation?: string
  sunset?: string
  by?: string
}

export interface Hit {
  title: string
  kind: string
  where?: string
  page: string
}

// submit sends one file or archive as it is, and several as a form with a part for each, named by its path.
function submit(path: string, { files, entry }: Upload, api: string, team: string) {
  const one = files.length === 1 ? files[0] : undefined
  const query = new URLSearchParams()
  if (api) query.set('api', api)
  if (team) query.set('team', team)
  if (entry) query.set(one ? 'entry' : 'file', entry)
  if (one) {
    query.set('file', one.path)
    return call<Recorded>('POST', `${path}?${query}`, one.content, isArchive(one.path) ? 'application/octet-stream' : 'application/yaml')
  }
  const form = new FormData()
  for (const f of files) form.append(f.path, f.content, f.path)
  return call<Recorded>('POST', `${path}?${query}`, form, null)
}
