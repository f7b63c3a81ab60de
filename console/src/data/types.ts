// Made from server/api/description.yaml by `go generate ./server/api`; do not edit.

export type Person = {
  name: string
  full: string
  // In all teams; empty for nothing but in those that follow.
  role: '' | 'admin' | 'auditor' | 'lead' | 'publisher' | 'editor' | 'reviewer' | 'reader'
  // Roles by team.
  teams?: Record<string, TeamRole>
  // Of whoever asks: what they may do in at least one team.
  may?: Act[]
  // Of whoever asks: as whom they look.
  seeing?: string
}

export type Invitation = {
  person: string
  // Where it is taken; its key stands behind the #.
  address: string
  endsAt: string
}

export type Session = {
  madeAt?: string
  endsAt: string
}

export type Scope = 'read' | 'record' | 'publish' | 'settle' | 'tally' | 'administer'

export type TokenEntry = {
  // By which it is taken back.
  id: string
  person: string
  label: string
  scopes: Scope[]
  // Those for which it acts; all of its maker's where there is none.
  teams: string[]
  // Those for which it acts alone; all of its teams where there is none.
  apis: string[]
  madeAt: string
  // Missing where it never does.
  endsAt?: string
  // True to the hour; missing where it was not used.
  usedAt?: string
}

export type Act = 'read' | 'record' | 'publish' | 'announce' | 'word' | 'arrange' | 'preview' | 'discard' | 'move' | 'promise' | 'calling' | 'tally' | 'consumers' | 'plans' | 'access' | 'period' | 'members' | 'audience' | 'place' | 'shelves' | 'style' | 'house' | 'teams' | 'people'

export type Team = {
  name: string
  members: Member[]
  // Those that it keeps, and you may know of.
  apis: string[]
  // Those that another team offers it, where you may know.
  offers: string[]
  // What you may do to it, and to what it keeps.
  may: Act[]
}

export type Member = {
  name: string
  full: string
  role: TeamRole
}

export type TeamRole = 'lead' | 'publisher' | 'editor' | 'reviewer' | 'reader'

export type Api = {
  name: string
  title: string
  team: string
  // The team to which its own offers it; its own is told.
  offered?: string
  // What you may do to it.
  may?: Act[]
  // How many days a notice must come before its sunset.
  noticeDays?: number
  // How callers choose its version.
  versioning?: string
  // What its server does with input that is not declared.
  undeclared?: 'ignored' | 'refused'
  // What it settles itself, for its team; what is not here is as the house style says, or the ledger.
  own?: {
    promise?: 'backward' | 'both-ways' | 'none'
    noticeDays?: number
  }
  // What the house style asks of who publishes, for its team.
  review?: string[]
  // To which versions its pages lead, for its team; lines, alone, is the newest of each line.
  switcher?: Picks
  promise: 'backward' | 'both-ways' | 'none'
  // By line, where one promises something else.
  linePromises?: Record<string, 'backward' | 'both-ways' | 'none'>
  versions: Version[]
  notices: Notice[]
  // To whom it is open; its own team is told.
  audience?: Audience
}

export type Calling = {
  // How callers choose the version; empty where nobody said.
  versioning: string
  // What the server does with input that is not declared.
  undeclared: 'ignored' | 'refused' | ''
  // Those that are answered, and drafts; the newest first.
  versions: {
    ref: string
    says?: string
    // Whether a call means it that says no version.
    usual?: boolean
    // Where its description says otherwise.
    faults: {
      file: string
      pointer: string
      line: number
      column: number
      // What does not go together.
      text: string
      // At how many other places it is the same.
      more?: number
    }[]
    // Other APIs whose calls nobody tells from its.
    clashes: {
      api: string
      number: string
      own: string
      other: string
      host: string
      // The path at that host.
      ownPath: string
      // The path at that host.
      otherPath: string
      // How many other operations clash.
      more?: number
    }[]
  }[]
}

// Groups of readers: everyone; signed-in; link, for those who have one and its password (of drafts, the address of a preview); team NAME. None is the API's own team, which always reads.
export type Groups = string[]

export type Audience = {
  published: Groups
  drafts: Groups
  // Whether that is what the ledger says of every API.
  publishedAsLedger?: boolean
  // Whether that is what the ledger says of every API.
  draftsAsLedger?: boolean
  // Parts that are open to fewer.
  parts?: PartAudience[]
}

export type PartAudience = {
  part: string
  published: Groups
}

// What is left out stays as it is.
export type AudienceWish = {
  // A part of the API, for fewer than it: an operation by its id or by its method and path, or a group.
  part?: string
  // Who may read what is published.
  published?: Groups
  // Who may read drafts; those who are signed in, at most.
  drafts?: Groups
  // As the ledger says of every API; of a part, as its API.
  asLedger?: boolean
  reason?: string
}

// Some versions of an API, as lines and numbers: 2 is all of line 2. None is all.
export type Picks = string[]

export type Shelf = {
  name: string
  title: string
  // Where it is read.
  address: string
  // Who sees it, for those who are in a team.
  audience?: Groups
  // What greets above it (CommonMark).
  landing?: string
  // A host at which nothing else is shown, for those who are in a team.
  host?: string
  // What stands there, in order.
  stands: Stand[]
  madeAt?: string
  madeBy?: string
}

export type Stand = {
  api: string
  versions?: Picks
  // For its team: why not all who see the shelf read it there.
  why?: string
}

export type Consumer = {
  name: string
  title: string
  // What it is for.
  note?: string
  // Whose it is.
  team?: string
  // Whose it is, where it is no team's.
  person?: string
  contacts: string[]
  madeAt: string
  madeBy: string
  // By what it is recognised, as far as you may know.
  knownBy: Sign[]
  // What it calls, of APIs of which you may know who calls them, by API.
  uses: ConsumerUse[]
  // Whether you may change it.
  mine: boolean
}

export type Sign = {
  // At whose APIs; at all where it is missing.
  team?: string
  kind: 'credential' | 'header' | 'agent'
  // A * stands for any text. Of a header, its name, a colon and its value.
  value: string
}

export type ConsumerUse = {
  api: string
  firstDay: string
  lastDay: string
  calls: number
}

// What is left out stays as it is.
export type ConsumerWish = {
  title?: string
  note?: string
  // Whose it is; an empty one makes it yours.
  team?: string
  // Whose it is.
  person?: string
  // E-mail addresses and https addresses.
  contacts?: string[]
}

export type Log = {
  // 0 where nothing in it was new.
  id: number
  name: string
  addedAt: string
  addedBy: string
  apis: string[]
  bytes: number
  lines: number
  // Lines that had been counted before.
  repeated: number
  calls: number
  unmatched: number
  // Lines that cannot be read.
  bad: number
  firstDay?: string
  lastDay?: string
}

export type AddedLog = Log & {
  // Calls of APIs of which you add none.
  elsewhere: number
  counted: CountedApi[]
  // Calls of no operation, the most frequent first.
  odd: Unmatched[]
  // Lines that cannot be read, by what is wrong with them.
  torn: BadLines[]
}

export type CountedApi = {
  api: string
  calls: number
}

export type Unmatched = {
  // What there is not; untold where no log tells the version.
  why: 'path' | 'method' | 'version' | 'untold'
  // Whose path it is.
  api?: string
  method?: string
  // Missing for those beyond the paths that are kept.
  path?: string
  calls: number
  lastDay?: string
}

export type BadLines = {
  why: string
  lines: number
  examples: BadLine[]
}

export type BadLine = {
  line: number
  // Its beginning.
  text: string
}

export type DaySpan = {
  from: string
  until: string
}

export type Use = {
  api: string
  from: string
  until: string
  by: 'version' | 'line' | 'consumer' | 'operation' | 'class'
  calls: number
  // With answers of 4xx and 5xx.
  failed: number
  // Calls of nobody known.
  unknown: number
  days: number
  // The days of which logs tell.
  covered: number
  // Those of which none does.
  missing: DaySpan[]
  series: UseSeries[]
}

export type UseSeries = {
  name: string
  // Of a consumer.
  title?: string
  // Whether it is known; so of all but callers that are no consumer.
  known: boolean
  calls: number
  failed: number
  firstDay: string
  lastDay: string
  // A number for each day.
  days: number[]
}

export type CallerUse = {
  // Missing where nobody knows which.
  consumer?: string
  title?: string
  // Whose it is, or the person.
  team?: string
  contacts: string[]
  // What it calls itself.
  caller?: string
  versions: string[]
  operations: string[]
  calls: number
  failed: number
  firstDay: string
  lastDay: string
  days: number[]
}

export type Evidence = {
  from: string
  until: string
  days: number
  covered: number
  missing: DaySpan[]
  calls: number
  // Calls of nobody known.
  unknown: number
}

export type Impact = {
  old: string
  new: string
  evidence: Evidence
  // That knows who calls the API.
  team: string
  // Whether you may know the names of all.
  named: boolean
  changes: TouchingChange[]
  users: CallerUse[]
  // Callers whose names you may not know.
  hidden: number
}

export type TouchingChange = {
  id: string
  kind: string
  backward: Grade
  forward: Grade
  at: string
  title: string
  users: string[]
  // Callers of whom nobody knows which consumer they are.
  unknown: number
  // Consumers whose names you may not know.
  hidden: number
  calls: number
  lastDay?: string
  // Where it touches nobody, how far that is known.
  says?: string
  // Of the users, those who say or show that they rely on what it changes.
  relies: string[]
  // Of these, those whom it breaks, although it is a hazard for others.
  breaks: string[]
  // Consumers that call what it changes, and say that they rely on nothing of it.
  spared: string[]
  // Such consumers whose names you may not know.
  others: number
}

export type Overview = {
  format: 'oldledger.overview/1'
  from: string
  until: string
  sections: OverviewSection[]
}

export type OverviewSection = {
  id: string
  title: string
  // What is counted, and how.
  about: string
  // By team.
  summary: OverviewTable
  // What it counts, one by one.
  detail: OverviewTable
}

export type OverviewTable = {
  columns: {
    name: string
    // Whether its cells are numbers.
    number?: boolean
  }[]
  rows: {
    cells: string[]
    // Where in the console one sees more.
    to?: string
  }[]
}

export type Reliance = {
  consumer: string
  // As its file says it; empty for nothing.
  text: string
  apis: ReliedAPI[]
  recordings: Recording[]
}

export type ReliedAPI = {
  api: string
  // For which the consumer was built.
  version?: string
  // How many operations it names.
  operations: number
  saidAt: string
  saidBy: string
}

export type Recording = {
  consumer: string
  api: string
  // That answered.
  version: string
  exchanges: number
  // Whether the gate of the API replays it.
  guards: boolean
  addedAt: string
  addedBy: string
  // Whether you may say whether it guards.
  maySet: boolean
}

export type AddedRecording = Recording & {
  // Entries that are no calls of the API.
  elsewhere: number
  // Entries that say the same as another one, and are left out.
  alike: number
  wrong: WrongEntry[]
}

export type WrongEntry = {
  // Its number.
  entry: number
  why: string
}

// An HTTP archive (HAR 1.2).
export type Archive = {
  log: {
    version: string
    entries: Record<string, unknown>[]
  }
}

export type Replay = {
  format: 'oldledger.replay/1'
  // That are calls of the API.
  exchanges: number
  // Of them, those of which nothing breaking is told.
  passed: number
  operations: string[]
  elsewhere?: {
    host: string
    exchanges: number
  }[]
  findings: ReplayFinding[]
}

export type ReplayFinding = {
  kind: 'route' | 'request' | 'ignored' | 'answer' | 'promise' | 'not-looked'
  grade: Grade
  undecided?: boolean
  operation?: string
  location: Location
  // The location in words.
  at?: string
  title: string
  // That shows it.
  message?: string
  // The other operations in which the same part of the description makes it.
  also?: string[]
  // The numbers of the entries; none where it follows from the description alone.
  exchanges: number[]
}

export type LineupClient = {
  consumer: string
  // For which it was recorded.
  version: string
  exchanges: number
  cells: {
    // How many exchanges pass; -1 where nobody looked yet: who asks again learns of more.
    passed: number
    // How much is told of them.
    findings: number
  }[]
}

export type Readiness = {
  subject: string
  api: string
  versions: string[]
  // That says that it leaves.
  notice?: number
  sunset?: string
  // That those who are left follow.
  guide?: string
  // How many days nobody calls what goes.
  quiet: number
  may: boolean
  reasons: ReadyReason[]
  evidence: Evidence
  users: CallerUse[]
  // The subject as readers know it.
  title: string
  // What to send those who still call it, by consumer.
  messages: Record<string, string>
  // Consumers that say or show that they rely on it.
  reliant: string[]
  // Who called it in the last 90 days, and not in those that count.
  moved: CallerUse[]
  // The first day of the curve.
  from: string
  // The calls of each day, up to the last one of which logs tell.
  curve: number[]
  // When they end at this pace, at the earliest; missing where they do not become fewer.
  ends?: string
  // And at the latest; missing where nobody can say.
  endsBy?: string
}

export type ReadyReason = {
  fine: boolean
  text: string
}

export type Plan = {
  api: string
  name: string
  // Calls in a time; 0 for as many as one likes.
  quota: number
  per?: 'second' | 'minute' | 'hour' | 'day' | 'month'
  // CommonMark.
  terms?: string
  // The terms as HTML in which nothing runs or loads.
  rendered?: string
  // What whoever asks is asked.
  asks: string[]
  // Who may ask, of those who read the API.
  audience: Groups
  // Whether the ledger issues credentials.
  issues: boolean
}

export type PlanWish = {
  // Calls in a time; 0 for as many as one likes.
  quota: number
  per?: '' | 'second' | 'minute' | 'hour' | 'day' | 'month'
  // CommonMark.
  terms?: string
  // What whoever asks is asked.
  asks?: string[]
  // Who may ask, of those who read the API.
  audience?: Groups
  // Whether the ledger issues credentials.
  issues?: boolean
}

export type Request = {
  id: number
  consumer: string
  title: string
  askedBy: string
  askedAt: string
  purpose: string
  // Whether the consumer is yours.
  mine: boolean
  items: RequestItem[]
}

export type RequestItem = {
  api: string
  line: string
  plan: string
  answers: Answered[]
  state: 'asked' | 'approved' | 'refused' | 'withdrawn'
  decidedBy?: string
  decidedAt?: string
  reason?: string
  // Whether you may decide it.
  decides: boolean
}

export type Answered = {
  question: string
  answer: string
}

export type RequestWish = {
  // One of yours.
  consumer: string
  // What people call it, where it is new.
  title?: string
  purpose: string
  items: RequestedApi[]
}

export type RequestedApi = {
  api: string
  line: string
  plan: string
  // To what the plan asks, in its order.
  answers?: string[]
}

export type Decision = {
  api: string
  line: string
  state: 'approved' | 'refused' | 'withdrawn'
  // Needed where it is refused.
  reason?: string
}

export type Grant = {
  consumer: string
  title: string
  api: string
  line: string
  plan: string
  quota: number
  per?: 'second' | 'minute' | 'hour' | 'day' | 'month'
  // Whether the ledger issues credentials.
  issues: boolean
  since: string
  by: string
  versions: string[]
  credentials: IssuedCredential[]
}

export type IssuedCredential = {
  // As logs have it.
  id: string
  // SHA-256 of all of it, in hexadecimal, for the API's team.
  hash?: string
  madeAt: string
  madeBy: string
  // Missing where it never does.
  endsAt?: string
  ended: boolean
}

export type NewCredential = {
  // As logs have it.
  id: string
  // What the consumer sends.
  credential: string
}

export type CarryWish = {
  // A line.
  from: string
  // Another one.
  to: string
  // Who is carried over; all where none is named.
  consumers?: string[]
  // When the old line leaves.
  sunset?: string
  reason?: string
  guide?: string
  // Why it may leave sooner than the notice period allows.
  sooner?: string
}

export type Carried = {
  consumers: string[]
  notice?: Notice
}

export type ConsumerGuide = {
  api: string
  old: string
  new: string
  // The operations that it calls.
  uses: string[]
  steps: ConsumerStep[]
  // Steps that those operations ask for, and that are about nothing that the consumer says that it relies on.
  spared: number
}

export type ConsumerStep = {
  id: string
  title: string
  // Missing where it is not done.
  doneAt?: string
  doneBy?: string
  // Whether the consumer says that it relies on what it is about.
  relied: boolean
}

// What is left out stays as it is. A new shelf is called by its name, and is for those for whom the ledger is.
export type ShelfWish = {
  title?: string
  // Who sees it; none for those alone who have a role in all teams.
  audience?: Groups
  // What greets above it (CommonMark).
  landing?: string
  // A host at which nothing else is shown; an empty one for none.
  host?: string
  // APIs that stand there and come first, in order.
  order?: string[]
  reason?: string
}

export type NewFeed = {
  feed: string
  calendar: string
}

export type LinkWish = {
  // For whom it is.
  label: string
  // Left out to have one made.
  password?: string
  days?: number
}

export type Link = {
  id: string
  api: string
  label: string
  madeBy: string
  madeAt: string
  endsAt: string
  ended?: boolean
}

export type NewLink = Link & {
  address: string
  // It is told this once.
  password: string
}

export type Version = {
  api: string
  number: string
  // The number as the description has it.
  text: string
  line: string
  state: 'draft' | 'published' | 'deprecated' | 'unpublished' | 'retired'
  title: string
  dialect: string
  file: string
  // SHA-256 of the text.
  digest: string
  recordedAt: string
  recordedBy: string
  // Why it was recorded.
  message?: string
  origin?: Origin
  publishedAt?: string
  publishedBy?: string
  retiredAt?: string
  // When a notice says that it leaves.
  sunset?: string
  // Whether that day has passed, and it is still there: it can be retired.
  overdue?: boolean
  // Of changes that it was published in spite of; the house is told.
  waivers?: Waiver[]
  // Who can read it now, in words; its own team is told.
  readBy?: string
}

// Where a recording came from, as whoever recorded it says.
export type Origin = {
  // The repository or folder.
  from?: string
  commit?: string
  // The run of the pipeline, or its address.
  build?: string
}

// One recording of a version. It stays when a draft is replaced.
export type Revision = {
  version: string
  digest: string
  title: string
  recordedAt: string
  recordedBy: string
  message?: string
  origin?: Origin
  // Whether it is what the version says now.
  current: boolean
}

export type Notice = {
  id: number
  // What it is about.
  subject: string
  api: string
  line?: string
  version?: string
  operation?: string
  // The operation as its author wrote it.
  written?: string
  // Of the operation, with its place.
  parameter?: string
  // Of the operation's answers.
  header?: string
  field?: string
  // One that the parameter, header or field lists.
  value?: string
  guide?: string
  since: string
  sunset?: string
  replacedBy?: string
  madeAt?: string
  // When its date, replacement or reason last changed.
  changedAt?: string
  reason: string
  madeBy: string
}

export type Guide = {
  format: 'oldledger.guide/1'
  api: string
  title: string
  from: string
  to: string
  // Whether versions lie between the two.
  between: boolean
  verdict: string
  // When the old version leaves.
  until?: string
  intro?: GuideText
  // Without these, calls fail.
  must: Step[]
  renames: {
    change?: string
    where: string
    from: string
    to: string
  }[]
  // What still works in the new version, and leaves later.
  wait: {
    title: string
    until?: string
    instead?: string
    reason?: string
    operations: string[]
    reach: string[]
    notice?: Notice
    change?: string
  }[]
  // Calls go on, and may mean something else.
  check: Step[]
  adopt: Step[]
  plans: {
    subject: string
    instead?: string
    expandedIn?: string
    deprecated: string
    markedIn?: string
    mayContract?: string
    contractedIn?: string
    stage: 'deprecated' | 'due' | 'contracted'
    notice: number
  }[]
  // While the new version can still be changed: the ways out of what it breaks, in the order to weigh them. Each step tells its own as its advice.
  waysOut?: string[]
  // What fails on the way back: who refuses, and, as before, what.
  rollback: Step[]
  // Whether one may go back.
  back: string
  wordings: number
  end?: GuideText
  operations: {
    key: string
    id?: string
    name: string
    steps: number
  }[]
  mine?: string[]
  // What authors wrote to changes that are no longer there; authors alone see it.
  gone?: GuideText[]
}

export type GuideText = {
  anchor: string
  title: string
  text: string
  madeBy: string
  madeAt: string
}

export type Step = {
  change: Change
  title: string
  text: string
  // The shared component in which the change was made.
  place?: string
  operations: string[]
  group: string
  came: {
    version: string
    change: string
  }[]
  removal?: Removal
  before?: GuideMessage
  after?: GuideMessage
  code?: {
    language: string
    name: string
    before: string
    after?: string
  }[]
  words?: GuideText
}

export type GuideMessage = {
  operation: string
  status?: string
  type?: string
  head: string
  lines?: string[]
  value?: unknown
}

export type Comparison = {
  format: 'oldledger.comparison/1'
  reading: 'declared' | 'exact'
  // What the server does with fields of requests that it does not declare.
  undeclared: 'ignored' | 'refused'
  // What happens to whom; where two versions are compared.
  verdict?: string
  // Operations as their author wrote them, by the names that they have here, where those differ.
  paths?: Record<string, string>
  old: Side
  new: Side
  backward: Grade
  forward: Grade
  recommended: {
    bump: 'major' | 'minor' | 'patch' | 'none'
    version: string
  } | null
  counts: Counts
  // What was looked at in both directions.
  compared: {
    // The operations that both versions have.
    operations: number
    // Their parameters, headers and bodies.
    payloads: number
  }
  // The ways out of what breaks, in the order in which they are weighed.
  waysOut?: string[]
  // How what the comparison removes was announced, by change; only where two recorded versions are compared.
  removed?: Record<string, Removal>
  changes: Change[]
}

// How many changes there are of each grade, backward.
export type Counts = {
  breaking: number
  hazard: number
  safe: number
  editorial: number
}

export type Side = {
  title: string
  version: string
  dialect: string
  diagnostics?: Diagnostics
}

// How bad a change is for one direction.
export type Grade = 'breaking' | 'hazard' | 'safe' | 'editorial'

export type Change = {
  // The same on every run.
  id: string
  kind: string
  backward: Grade
  forward: Grade
  // Whether it could not be decided.
  undecided?: boolean
  operation: string
  // The operation as its author wrote it.
  written?: string
  // The location in words.
  at: string
  location: Location
  title: string
  why: string
  // The first two ways out, in words of this change: to leave it, and how to expand and contract.
  advice: string[]
  renamed?: FromTo
  moved?: FromTo
  // The listed values that are no longer there.
  left?: string[]
  // Of a default, the value of a tag, or an address: what it was.
  was?: unknown
  // And what it is now.
  is?: unknown
  old?: NamedPlace
  new?: NamedPlace
  reach: string[]
  witness?: Witness
  witnesses?: Witness[]
}

export type FromTo = {
  from: string
  to: string
}

export type Place = {
  file: string
  // A JSON Pointer.
  pointer: string
  line: number
  column: number
}

// Where something stands, and in which part that is shared under a name.
export type NamedPlace = Place & {
  // The name of the nearest named part around it.
  component?: string
  fields?: Fields
}

// The way from a value to a part of it: names of properties, '[]' for an item of a list, '*' for a property without a name of its own.
export type Fields = string[]

// Where a change is felt, below its operation.
export type Location = {
  part: 'description' | 'servers' | 'security' | 'operation' | 'parameter' | 'request' | 'response' | 'schema'
  // Of a response, as its author wrote it.
  status?: string
  mediaType?: string
  // Of a parameter.
  in?: 'path' | 'query' | 'header' | 'cookie' | 'querystring'
  // Of a parameter, a security scheme or a schema.
  name?: string
  // Of a response or of a part of a form.
  header?: string
  link?: string
  // The schema that is meant where its base stands.
  heir?: string
  fields?: Fields
}

// A message that the sender's version allows and the receiver's refuses.
export type Witness = {
  direction: 'backward' | 'forward'
  operation: string
  // The operation with its base path, and values in the places of its path parameters.
  written?: string
  position: string
  // The message itself.
  value?: unknown
  // Of a parameter or a header: its value as it stands in the message.
  wire?: string
  // Who refuses it: a version, or those who were built for one.
  refuser: string
}

export type Obstacle = {
  change: Change
  against: string[]
  rollback: boolean
  waived: boolean
  // By which evidence it touches nobody, where the house style lets through what does not.
  untouched?: string
  // Whose recorded exchange it is that no longer passes.
  consumer?: string
  removal?: Removal
}

export type Gate = {
  promise: 'backward' | 'both-ways' | 'none'
  open: boolean
  obstacles: Obstacle[]
  // Where it is shut: the ways out, in the order in which they are weighed.
  waysOut?: string[]
  // What looks like a credential.
  credentials?: Credential[]
  // The errors of the description.
  mistakes?: Mistake[]
  // Its warnings and hints.
  diagnostics?: Diagnostic[]
  // What the rules of review ask for, and you do not meet.
  unmet?: string[]
}

// From a first character to the one behind the last. Lines and columns count from 1, columns in code points.
export type Range = {
  file: string
  // A JSON Pointer (RFC 6901).
  pointer: string
  line: number
  column: number
  endLine: number
  endColumn: number
}

// Something wrong with a description, which is read all the same.
export type Diagnostic = Range & {
  rule: string
  severity: 'error' | 'warning' | 'hint'
  // What is wrong.
  text: string
  // What would be right.
  right?: string
  // Other places that have to do with it.
  related?: (Range & {
    text: string
  })[]
  // A mend that needs no thought.
  fix?: {
    title: string
    edits: (Range & {
      // What is written in the place of the range.
      text: string
    })[]
  }
}

export type Style = {
  // 0 where there is none.
  version: number
  // A style file.
  text: string
  reason?: string
  madeAt?: string
  madeBy?: string
  // Of what is in force here, with the versions that speak.
  name: string
  // Why a part of it is left out.
  fault?: string
  // Of what is in force here: the house's, the team's, the API's.
  parts: {
    of: string
    version: number
    text: string
  }[]
  // Its versions, the newest first.
  history: {
    version: number
    text: string
    reason?: string
    madeAt: string
    madeBy: string
  }[]
}

export type StyleWish = {
  // A style file; an empty text takes the style away.
  text: string
  reason?: string
  // The version that was changed, 0 for none.
  version: number
}

export type Rules = {
  // The name of the style with the versions that speak.
  style: string
  items: Rule[]
}

export type Rule = {
  name: string
  group: string
  // How much a finding weighs.
  weight: 'off' | 'hint' | 'warning' | 'error' | 'refused'
  // Why it weighs otherwise than it came.
  because?: string
  // The kind of elements of which it speaks, or a JSONPath.
  about?: string
  // Which of them are meant.
  where?: string
  // What holds of them.
  must?: string
  // What is wrong where it does not.
  says: string
  // CommonMark.
  why?: string
  good?: string[]
  bad?: string[]
  // Whether it is the house's own.
  own: boolean
}

export type Findings = {
  // The name of the style with the versions that speak.
  style: string
  // Why a part of the style is left out.
  fault?: string
  errors: number
  warnings: number
  hints: number
  // How many may stand.
  standing: number
  // How many operations, parameters, answers, types and fields the description has.
  parts: number
  // About how many of them nothing is found.
  clean: number
  items: Finding[]
}

// Something that is wrong, or does not follow the house style.
export type Finding = Diagnostic & {
  // The same while it stands, whatever its line.
  id: string
  // How it is mended without a thought.
  mends?: string
  // Why it may stand.
  let?: string
  // Whether the published version before it has it not.
  new: boolean
}

// An error. It stops publishing until it is mended, or let through by its id with a reason.
export type Mistake = Diagnostic & {
  id: string
  // The reason for which it was let through.
  allowed?: string
}

// How much is wrong with a description, and the worst of it.
export type Diagnostics = {
  // The counts in words; empty where there are none.
  text: string
  errors: number
  warnings: number
  hints: number
  worst: Diagnostic[]
}

export type Credential = {
  id: string
  what: string
  // Its first characters.
  shown: string
  place: Place
  // The reason for which it was allowed.
  allowed?: string
}

export type Overlay = {
  version: string
  // The version before it from which it would be carried over, when this one has none.
  from?: string
  state: 'none' | 'draft' | 'shown'
  text: string
  madeBy?: string
  madeAt?: string
  digest: string
  // The overlay as JSON.
  document?: Record<string, unknown>
  // What each action comes to, in their order.
  outcomes: {
    // A JSONPath (RFC 9535).
    target: string
    // How many places it finds; 0 when what it speaks of is gone.
    matched: number
    places: string[]
    wrong?: string
  }[]
}

export type Waiting = {
  drafts: {
    version: Version
    // Whether you recorded it last.
    mine: boolean
    // Whether it may be published as it is.
    open: boolean
    // What stands in the way.
    why?: string
  }[]
  // With what you may decide, the oldest first.
  asked: Request[]
  notices: Notice[]
}

export type Preview = {
  version: string
  // Names it without giving it away.
  id: string
  // Below the service's address. Told once.
  path?: string
  madeBy: string
  madeAt: string
  expiresAt: string
}

export type Picture = {
  name: string
  // In bytes.
  size: number
  // Below that of the service.
  address: string
  madeBy: string
  madeAt: string
}

export type Looks = {
  accent?: string
  accentDark?: string
  font?: '' | 'literata' | 'plex' | 'system'
  // A data: address of a PNG or SVG picture.
  logo?: string
  // CommonMark above the overview.
  landing?: string
  // CommonMark below every page.
  footer?: string
  // Those of the samples, in their order.
  languages?: {
    id: 'curl' | 'javascript' | 'javascript-axios' | 'python' | 'python-httpx' | 'go' | 'java' | 'java-okhttp' | 'csharp'
    // A template of the team's own.
    template?: string
  }[]
  // The sites whose pages may hold pages of the reference.
  parents?: string[]
  // Whether search engines are asked to stay away.
  unlisted?: boolean
  madeBy?: string
  madeAt?: string
}

export type Recorded = {
  version: Version
  outcome: 'new' | 'replaced' | 'same'
  base?: Version
  changes?: Comparison
  // What the changes do to whom.
  verdict?: string
  gate?: Gate
  diagnostics: Diagnostics
}

// How what a change removes was announced.
export type Removal = {
  // How it reads.
  text: string
  // Whether its date has passed.
  announced: boolean
  notice?: Notice
}

// Which version can replace which. A row is a version that clients were built for, a column the version that answers them.
export type Lineup = {
  format: 'oldledger.lineup/1'
  reading: 'declared' | 'exact'
  undeclared: 'ignored' | 'refused'
  versions: {
    name: string
    title: string
    version: string
    dialect: string
  }[]
  cells: {
    grade: Grade
    counts: Counts
  }[][]
}

// One file of a version, by its path from the folder of the description.
export type DescriptionFile = {
  path: string
  text: string
}

export type Verification = {
  entries: number
  // How many texts were compared with their digests.
  contents: number
  // The number and the hash of the newest entry, to be kept elsewhere: 49:8e47….
  head: string
  intact: boolean
  // The first entry that does not fit.
  broken?: number
  why?: string
}

export type Waiver = {
  version: string
  change: string
  kind: string
  title: string
  reason: string
  madeBy: string
  madeAt: string
}

export type Release = {
  version: Version
  before?: string
  changes?: Comparison
  notices: Notice[]
  waivers: Waiver[]
  // How each removal was announced, by the id of its change.
  removed: Record<string, Removal>
}

export type Entry = {
  seq: number
  at: string
  actor: string
  act: string
  subject: string
  detail: Record<string, string>
  previous: string
  hash: string
}

// An error as RFC 9457 has it.
export type Problem = {
  type: string
  title: string
  status: number
  detail: string
  // What to name to whoever runs the ledger.
  trace: string
  // Why a description cannot be read.
  diagnostics?: Diagnostic[]
  // The errors for which a description is not published.
  mistakes?: Mistake[]
  gate?: Gate
  // What looks like one.
  credentials?: Credential[]
}
