/** Names that hold most of what was written but for a letter or two: for 'did you mean' beside a name that is new. */
const pairs = (text: string): string[] => [...text].slice(1).map((letter, n) => `${text[n] ?? ''}${letter}`)

export function listAlike(said: string, known: string[], most = 3): string[] {
  const mine = new Set(pairs(said.toLowerCase()))
  const likeness = (name: string): number => {
    const theirs = pairs(name.toLowerCase())
    return theirs.filter((p) => mine.has(p)).length / Math.max(theirs.length, mine.size, 1)
  }
  return known.filter((name) => likeness(name) >= 0.5).slice(0, most)
}
