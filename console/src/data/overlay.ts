// How a reference is worded: an overlay (OpenAPI Overlay 1.0) as it is edited. Every edit is an action on one target; a second edit of the
// same target is merged into the first.
import type { Json, JsonObject } from './json'

export interface Action {
  target: string
  description?: string
  update?: Json
  remove?: boolean
}

export interface OverlayDocument {
  overlay: string
  info: { title: string; version: string }
  extends?: string
  actions: Action[]
}

const methods = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace', 'query']

// One step of a JSONPath, as RFC 9535 writes it.
export function step(name: string) {
  return `['${name.replaceAll('\\', '\\\\').replaceAll("'", "\\'")}']`
}

// The target of a JSON Pointer.
export function targetOf(pointer: string) {
  const steps = pointer.replace(/^#?\/?/, '').split('/').filter(Boolean)
  return '$' + steps.map((s) => step(decodeURIComponent(s).replaceAll('~1', '/').replaceAll('~0', '~'))).join('')
}

export function isObject(v: Json | undefined): v is JsonObject {
  return typeof v === 'object' && v !== null && !Array.isArray(v)
}

function at(root: JsonObject, pointer: string): Json | undefined {
  let v: Json | undefined = root
  for (const s of pointer.replace(/^#?\/?/, '').split('/').filter(Boolean)) {
    v = isObject(v) ? v[decodeURIComponent(s).replaceAll('~1', '/').replaceAll('~0', '~')] : undefined
  }
  return v
}

// follow leads through a $ref to what it names, with the target that finds it.
function follow(root: JsonObject, v: Json | undefined, target: string): { value: JsonObject; target: string } | undefined {
  for (let n = 0; n < 10 && isObject(v) && typeof v.$ref === 'string'; n++) {
    target = targetOf(v.$ref)
    v = at(root, v.$ref)
  }
  return isObject(v) ? { value: v, target } : undefined
}

export interface ExamplePlace {
  label: string
  target: string
  example: string
  many: boolean // whether it has a map of examples
}

export interface OperationItem {
  key: string
  target: string
  summary: string
  description: string
  group: string
  tagged: boolean
  hidden: boolean
  order: number
  slug: string
  examples: ExamplePlace[]
}

export interface TextItem {
  label: string
  target: string
  description: string
}

const text = (v: Json | undefined) => (typeof v === 'string' ? v : '')
const shown = (v: Json | undefined) => (v === undefined ? '' : typeof v === 'string' ? v : JSON.stringify(v, null, 2))

function examplesOf(root: JsonObject, holder: Json | undefined, target: string, label: string): ExamplePlace[] {
  const found = follow(root, holder, target)
  if (!found || !isObject(found.value.content)) return []
  return Object.entries(found.value.content).map(([type, media]) => {
    const m = isObject(media) ? media : {}
    const first = isObject(m.examples) ? Object.values(m.examples)[0] : undefined
    return {
      label: `${label}, ${type}`,
      target: found.target + step('content') + step(type),
      example: shown(m.example ?? (isObject(first) ? first.value : undefined)),
      many: isObject(m.examples),
    }
  })
}

// The operations of a document, in the order in which its reference lists them.
export function operationsOf(root: JsonObject): OperationItem[] {
  const all: OperationItem[] = []
  for (const [path, item] of Object.entries(isObject(root.paths) ? root.paths : {})) {
    if (!isObject(item)) continue
    for (const method of methods) {
      const op = item[method]
      if (!isObject(op)) continue
      const target = '$.paths' + step(path) + '.' + method
      const tags = Array.isArray(op.tags) ? op.tags : []
      const examples = examplesOf(root, op.requestBody, target + '.requestBody', 'what is sent')
      for (const [status, answer] of Object.entries(isObject(op.responses) ? op.responses : {})) {
        examples.push(...examplesOf(root, answer, target + '.responses' + step(status), status))
      }
      all.push({
        key: `${method.toUpperCase()} ${path}`, target, summary: text(op.summary), description: text(op.description), group: text(tags[0]) || 'Operations',
        tagged: tags.length > 0, hidden: op['x-ledger-hidden'] === true, order: typeof op['x-ledger-order'] === 'number' ? op['x-ledger-order'] : 0, slug: text(op.operationId), examples,
      })
    }
  }
  return all.map((op, i) => [op, i] as const).sort(([a, i], [b, j]) => a.order - b.order || i - j).map(([op]) => op)
}

// What else can be worded: the API itself, its groups, its schemas and their fields.
export function textsOf(root: JsonObject): TextItem[] {
  const all: TextItem[] = []
  const info = isObject(root.info) ? root.info : {}
  all.push({ label: 'The API', target: '$.info', description: text(info.description) })
  for (const [i, tag] of (Array.isArray(root.tags) ? root.tags : []).entries()) {
    if (isObject(tag)) all.push({ label: `Group ${text(tag.name)}`, target: `$.tags[${i}]`, description: text(tag.description) })
  }
  const components = isObject(root.components) ? root.components : {}
  for (const [name, schema] of Object.entries(isObject(components.schemas) ? components.schemas : {})) {
    if (!isObject(schema)) continue
    const target = '$.components.schemas' + step(name)
    all.push({ label: name, target, description: text(schema.description) })
    for (const [field, of] of Object.entries(isObject(schema.properties) ? schema.properties : {})) {
      if (isObject(of)) all.push({ label: `${name}.${field}`, target: target + '.properties' + step(field), description: text(of.description) })
    }
  }
  return all
}

function merged(a: Json | undefined, b: Json): Json {
  if (!isObject(a) || !isObject(b)) return b
  const out: JsonObject = { ...a }
  for (const [k, v] of Object.entries(b)) out[k] = merged(out[k], v)
  return out
}

// put adds an update of a target to the actions, or puts it into the one that is there.
export function put(actions: Action[], target: string, update: JsonObject) {
  const known = actions.find((a) => a.target === target && !a.remove && isObject(a.update))
  if (known) known.update = merged(known.update, update)
  else actions.push({ target, update })
}

// clear has a target taken away before anything else is put in its place.
export function clear(actions: Action[], target: string) {
  if (!actions.some((a) => a.target === target && a.remove)) actions.unshift({ target, remove: true })
}

// What an author has put into the form of an operation, or of another text.
export interface Form {
  summary: string
  description: string
  group: string
  order: number
  hidden: boolean
  examples: string[]
}

// edit is the actions with what a form changes of an operation, or else of another text. What it does not change needs no action.
export function edit(before: Action[], op: OperationItem | undefined, other: TextItem | undefined, form: Form): Action[] {
  const actions = JSON.parse(JSON.stringify(before)) as Action[]
  if (other && form.description !== other.description) put(actions, other.target, { description: form.description })
  if (!op) return actions
  if (form.summary !== op.summary) put(actions, op.target, { summary: form.summary })
  if (form.description !== op.description) put(actions, op.target, { description: form.description })
  if (form.hidden !== op.hidden) put(actions, op.target, { 'x-ledger-hidden': form.hidden })
  if (form.order !== op.order) put(actions, op.target, { 'x-ledger-order': form.order })
  const group = form.group.trim()
  if (group && group !== op.group) {
    if (op.tagged) clear(actions, op.target + '.tags')
    put(actions, op.target, { tags: [group] })
  }
  for (const [i, e] of op.examples.entries()) {
    const now = form.examples[i] ?? ''
    if (now === e.example) continue
    if (e.many) clear(actions, e.target + '.examples')
    put(actions, e.target, { example: exampleOf(now) })
  }
  return actions
}

// exampleOf reads an example as JSON, or as a text where it is plainly none.
export function exampleOf(text: string): Json {
  try {
    return JSON.parse(text) as Json
  } catch {
    if (/^\s*[[{"]/.test(text)) throw new Error('The example is no JSON.')
    return text
  }
}

export function emptyOverlay(reference: string): OverlayDocument {
  return { overlay: '1.0.0', info: { title: `How ${reference} reads`, version: '1.0.0' }, actions: [] }
}
