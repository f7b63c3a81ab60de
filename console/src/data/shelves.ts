// How shelves are told and arranged.

// groupWords name groups of readers, and who reads beside them where there are none.
export function groupWords(groups: string[], nobody: string): string {
  const words = groups.map((g) => (g === 'signed-in' ? 'whoever is signed in' : g === 'link' ? 'whoever has a link' : g.replace(/^team /, '')))
  return words.join(', ') || nobody
}

// picked are the lines and numbers that somebody wrote; none for all.
export const picked = (text: string): string[] => text.split(/[\s,]+/).filter((t) => t && t !== 'all')

// swapped is a list with two of its items in each other's place.
export function swapped(all: string[], a: number, b: number): string[] {
  const to = [...all]
  const [x, y] = [to[a], to[b]]
  if (x === undefined || y === undefined) return to
  to[a] = y
  to[b] = x
  return to
}
