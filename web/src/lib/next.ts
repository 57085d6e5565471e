/** Where somebody wanted to be before they signed in: kept while they are away at a provider's page. */
const KEY = 'sorta-next'

/** A place of ours, whatever stands in an address. */
export const readNext = (said: unknown): string => (typeof said === 'string' && /^\/(?![/\\])/.test(said) ? said : '/')

export const keepNext = (said: unknown): void => sessionStorage.setItem(KEY, readNext(said))

export function takeNext(): string {
  const kept = readNext(sessionStorage.getItem(KEY))
  sessionStorage.removeItem(KEY)
  return kept
}
