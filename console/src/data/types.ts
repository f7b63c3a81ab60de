// The objects of the HTTP interface, as server/api/description.yaml describes them.

export type Grade = 'breaking' | 'hazard' | 'safe' | 'editorial'

export interface Person {
  name: string
  full: string
  role: 'admin' | 'editor' | 'reviewer' | 'reader'
}

export interface Version {
  api: string
  number: string
  text: string
  line: string
  state: 'draft' | 'published' | 'deprecated' | 'unpublished' | 'retired'
  title: string
  dialect: string
  file: string
  digest: string
  recordedAt: string
  recordedBy: string
  publishedAt?: string
  publishedBy?: string
  sunset?: string
}

export interface Notice {
  id: number
  api: string
  line?: string
  version?: string
  operation?: string
  parameter?: string
  header?: string
  field?: string
  value?: string
  guide?: string
  since: string
  sunset?: string
  replacedBy?: string
  reason: string
  madeBy: string
}

// NoticeWords is what somebody says in a notice; "" is nothing.
export interface NoticeWords extends Record<string, string> {
  sunset: string
  replacedBy: string
  reason: string
  guide: string
  sooner: string
}

export interface Api {
  name: string
  title: string
  team: string
  promise: string
  versions: Version[]
  notices: Notice[]
  noticeDays?: number
}

export interface Place {
  file: string
  pointer: string
  line: number
  column: number
}

// Removal is how a removal was announced.
export interface Removal {
  notice?: Notice
  announced: boolean
}

export interface Witness {
  direction: 'backward' | 'forward'
  operation: string
  written?: string
  position: string
  value?: unknown
}

export interface Change {
  id: string
  kind: string
  backward: Grade
  forward: Grade
  undecided?: boolean
  operation: string
  at: string
  title: string
  why: string
  advice: string[]
  old?: Place
  new?: Place
  reach: string[]
  written?: string
  witness?: Witness
  witnesses?: Witness[]
}

export interface Comparison {
  reading: string
  undeclared: string
  paths?: Record<string, string>
  old: { title: string; version: string; dialect: string }
  new: { title: string; version: string; dialect: string }
  backward: Grade
  forward: Grade
  recommended: { bump: string; version: string } | null
  counts: Record<Grade, number>
  changes: Change[]
  waysOut?: string[]
  removed?: Record<string, Removal>
}

export interface Lineup {
  versions: { name: string; version: string }[]
  cells: { grade: Grade; counts: Record<Grade, number> }[][]
}

export interface DescriptionFile {
  path: string
  text: string
}

export interface Obstacle {
  change: Change
  against: string[]
  rollback: boolean
  waived: boolean
  removal?: Removal
}

export interface Diagnostic {
  rule: string
  severity: 'error' | 'warning' | 'hint'
  file: string
  pointer: string
  line: number
  column: number
  text: string
  right?: string
}

export interface Mistake extends Diagnostic {
  id: string
  allowed?: string
}

export interface Tally {
  errors: number
  warnings: number
  hints: number
  worst: Diagnostic[]
}

export interface Gate {
  promise: string
  open: boolean
  obstacles: Obstacle[]
  waysOut?: string[]
  credentials?: Credential[]
  mistakes?: Mistake[]
  diagnostics?: Diagnostic[]
}

export interface Recorded {
  version: Version
  outcome: 'new' | 'replaced' | 'same'
  base?: Version
  changes?: Comparison
  gate?: Gate
  diagnostics: Tally
}

export interface Message {
  head: string
  lines?: string[]
  value?: unknown
}

export interface GuideText {
  anchor: string
  title: string
  text: string
  madeBy: string
  madeAt: string
}

export interface Step {
  change: Change
  title: string
  text: string
  place?: string
  operations: string[]
  came: { version: string; change: string }[]
  before?: Message
  after?: Message
  code?: { language: string; name: string; before: string; after?: string }[]
  words?: GuideText
}

export interface Guide {
  api: string
  title: string
  from: string
  to: string
  verdict: string
  intro?: GuideText
  must: Step[]
  renames: { where: string; from: string; to: string }[]
  wait: { title: string; until?: string; instead?: string; reason?: string }[]
  check: Step[]
  adopt: Step[]
  plans: { subject: string; instead?: string; expandedIn?: string; deprecated: string; mayContract?: string; contractedIn?: string; notice: number }[]
  rollback: Step[]
  back: string
  end?: GuideText
  gone?: GuideText[]
}

export interface Release {
  version: Version
  before?: string
  changes?: Comparison
}

export interface Entry {
  seq: number
  at: string
  actor: string
  act: string
  subject: string
}

export interface Problem {
  title: string
  status: number
  detail: string
  trace: string
  diagnostics?: Diagnostic[]
  gate?: Gate
}

export type Json = string | number | boolean | null | Json[] | { [name: string]: Json }
export type JsonObject = { [name: string]: Json }

export interface Overlay {
  version: string
  from?: string
  state: 'none' | 'draft' | 'shown'
  text: string
  madeBy?: string
  madeAt?: string
  digest: string
  document?: import('./overlay').OverlayDocument
  outcomes: { target: string; matched: number; places: string[]; wrong?: string }[]
}

export interface Credential {
  id: string
  what: string
  shown: string
  place: Place
  allowed?: string
}

export interface Looks {
  accent?: string
  accentDark?: string
  font?: string
  logo?: string
  landing?: string
  footer?: string
  languages?: { id: string; template?: string }[]
  parents?: string[]
  unlisted?: boolean
  madeBy?: string
  madeAt?: string
}
