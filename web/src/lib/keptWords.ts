/** Words that the server may not have yet, kept on this device: a reload, a crash or a lost connection takes none. */

export interface Place<M extends string = string> {
  member: number
  workspace: number
  conversation: number
  mode: M
}
const PREFIX = 'sorta-words-'
const nameOf = (p: Place): string => `${PREFIX}${p.member}-${p.workspace}-${p.conversation}-${p.mode}`

/** False when the device has no room: then only the server keeps them. */
export function keepWords<T extends { body: string }>(place: Place, draft: T): boolean {
  try {
    localStorage.setItem(nameOf(place), JSON.stringify(draft))
    return true
  } catch {
    return false
  }
}

export function readWords<T extends { body: string }>(place: Place): T | null {
  const found = localStorage.getItem(nameOf(place))
  return found === null ? null : (JSON.parse(found) as T)
}

/** They are on the server now, unless something was typed meanwhile. */
export function dropWords(place: Place, body: string): void {
  if (readWords(place)?.body === body) localStorage.removeItem(nameOf(place))
}

/** Where words of this member wait in a workspace, on this device. */
export function listPlaces<M extends string>(member: number, workspace: number): Place<M>[] {
  const start = `${PREFIX}${member}-${workspace}-`
  return Object.keys(localStorage)
    .filter((key) => key.startsWith(start))
    .map((key) => key.slice(start.length).split('-'))
    .map(([conversation, mode]) => ({ member, workspace, conversation: Number(conversation), mode: mode as M }))
}
