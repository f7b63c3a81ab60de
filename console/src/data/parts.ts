// The parts of a version that a notice can speak of, by the names that it takes: from the version as one OpenAPI document.
import type { Json, JsonObject } from './json'
import { isObject, operationsOf } from './overlay'

export type Choice = {
  label: string
  value: string
}

// choicesOf are the operations of a version.
export function choicesOf(root: JsonObject): Choice[] {
  return operationsOf(root).map((op) => ({ value: op.slug || op.key, label: op.summary ? `${op.summary}, ${op.key}` : op.key }))
}

// partsOf are what of a version can be open to fewer than its API: its groups and its operations, as an audience names them.
export function partsOf(root: JsonObject): Choice[] {
  const items = Object.values(isObject(root.paths) ? root.paths : {}).flatMap((item) => (isObject(item) ? Object.values(item) : []))
  const tags = items.flatMap((op) => (isObject(op) ? listOf(op.tags) : [])).filter((t) => typeof t === 'string')
  return [
    ...named(tags).map((c) => ({ value: `group ${c.value}`, label: `the group ${c.label}` })),
    ...choicesOf(root).map((c) => ({ value: `operation ${c.value}`, label: c.label })),
  ]
}

function find(root: JsonObject, name: string): { item: JsonObject; op: JsonObject } | undefined {
  for (const [path, item] of Object.entries(isObject(root.paths) ? root.paths : {})) {
    for (const [method, op] of Object.entries(isObject(item) ? item : {})) {
      if (isObject(item) && isObject(op) && (op.operationId === name || `${method.toUpperCase()} ${path}` === name)) return { item, op }
    }
  }
}

function resolved(root: JsonObject, v: Json | undefined): JsonObject {
  for (let n = 0; n < 10 && isObject(v) && typeof v.$ref === 'string'; n++) {
    let at: Json | undefined = root
    for (const s of v.$ref.replace(/^#\/?/, '').split('/')) at = isObject(at) ? at[decodeURIComponent(s).replaceAll('~1', '/').replaceAll('~0', '~')] : undefined
    v = at
  }
  return isObject(v) ? v : {}
}

const listOf = (v: Json | undefined) => (Array.isArray(v) ? v : [])
const named = (names: string[]): Choice[] => [...new Set(names)].sort().map((value) => ({ label: value, value }))

// parametersOf are the parameters of an operation.
export function parametersOf(root: JsonObject, operation: string): Choice[] {
  const at = find(root, operation)
  if (!at) return []
  return [...listOf(at.op.parameters), ...listOf(at.item.parameters)]
    .map((p) => resolved(root, p))
    .flatMap((p) => (typeof p.name === 'string' ? [{ value: p.name, label: typeof p.in === 'string' ? `${p.name}, in ${p.in}` : p.name }] : []))
}

// headersOf are the headers of an operation's answers.
export function headersOf(root: JsonObject, operation: string): Choice[] {
  const answers = Object.values(isObject(find(root, operation)?.op.responses) ? (find(root, operation)!.op.responses as JsonObject) : {})
  return named(answers.flatMap((a) => Object.keys(isObject(resolved(root, a).headers) ? (resolved(root, a).headers as JsonObject) : {})))
}

const schemasOf = (root: JsonObject) => (isObject(root.components) && isObject(root.components.schemas) ? root.components.schemas : {})

// fieldsOf are the fields of the schemas with a name.
export function fieldsOf(root: JsonObject): Choice[] {
  return named(Object.entries(schemasOf(root)).flatMap(([name, s]) => Object.keys(isObject(s) && isObject(s.properties) ? s.properties : {}).map((f) => `${name}.${f}`)))
}

// valuesOf are the values that a part lists.
export function valuesOf(root: JsonObject, part: { operation: string; parameter: string; field: string }): Choice[] {
  let schema: JsonObject = {}
  if (part.field) {
    const [name, ...field] = part.field.split('.')
    const of = schemasOf(root)[name]
    schema = resolved(root, isObject(of) && isObject(of.properties) ? of.properties[field.join('.')] : undefined)
  } else if (part.parameter) {
    const at = find(root, part.operation)
    const all = [...listOf(at?.op.parameters), ...listOf(at?.item.parameters)].map((p) => resolved(root, p))
    schema = resolved(root, all.find((p) => p.name === part.parameter)?.schema)
  }
  if (isObject(schema.items)) schema = resolved(root, schema.items)
  return named(listOf(schema.enum).map((v) => (typeof v === 'string' ? v : JSON.stringify(v))))
}
