// What a person drops or chooses: a file, an archive, or a folder with all that is in it.
export interface Part {
  path: string // from the folder that was chosen
  content: File
}

// Upload is what is sent: the files, and the one that the description begins with ('' leaves it to the ledger to find).
export interface Upload {
  files: Part[]
  entry: string
}

export const isArchive = (name: string) => /\.(zip|tgz|tar\.gz)$/i.test(name)

// A description is text: what else stands in a folder is left where it is.
const kept = /\.(raml|ya?ml|json|md|txt|xsd|xml)$/i

const most = 2000

// chosen are the files of an input, those of a folder by their paths below it.
export function chosen(list: FileList | null): Part[] {
  return below([...(list ?? [])].map((content) => ({ path: content.webkitRelativePath || content.name, content })))
}

// dropped reads what was let go over the page, folders with all that is in them.
export async function dropped(items: DataTransferItemList | undefined): Promise<Part[]> {
  // All are asked for before the first wait: afterwards the browser has forgotten what was dropped.
  const things = [...(items ?? [])].map((i) => i.webkitGetAsEntry() ?? i.getAsFile()).filter((t) => t !== null)
  const parts: Part[] = []
  for (const t of things) {
    if (t instanceof File) parts.push({ path: t.name, content: t })
    else await walk(t, parts)
  }
  return below(parts)
}

async function walk(entry: FileSystemEntry, into: Part[]): Promise<void> {
  if (into.length > most || entry.name.startsWith('.')) return
  if (entry.isFile) {
    const content = await new Promise<File>((yes, no) => (entry as FileSystemFileEntry).file(yes, no))
    into.push({ path: entry.fullPath.replace(/^\//, ''), content })
    return
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((yes, no) => reader.readEntries(yes, no))
    if (some.length === 0) return
    for (const e of some) await walk(e, into)
  }
}

// below leaves out the folder in which all files stand, and what is no part of a description.
function below(parts: Part[]): Part[] {
  if (parts.length === 1) return [{ ...parts[0], path: parts[0].content.name }]
  const texts = parts.filter((p) => kept.test(p.path) && !p.path.split('/').some((s) => s.startsWith('.')))
  const top = texts[0]?.path.split('/')[0] + '/'
  if (!texts.every((p) => p.path.startsWith(top))) return texts
  return texts.map((p) => ({ ...p, path: p.path.slice(top.length) }))
}
