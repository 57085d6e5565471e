/** Whether a saved reply has all the words that are looked for in its name, shortcut or text; a shortcut may be written with its stroke. */
export const listWanted = (words: string): string[] =>
  words.toLowerCase().replace(/^\//, '').split(/\s+/).filter(Boolean)

export const hasWords = (one: { name: string; shortcut: string; text: string }, wanted: string[]): boolean =>
  wanted.every((w) => `${one.name} ${one.shortcut} ${one.text}`.toLowerCase().includes(w))
