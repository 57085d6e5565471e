/** What is looked up anew, with every part that is as it was being the very part it was: who shows only that has nothing to do. */
export function keepSame<T>(had: unknown, found: T): T {
  if (Object.is(had, found)) return found
  if (Array.isArray(had) && Array.isArray(found)) {
    const parts = found.map((part, n) => keepSame(had[n], part))
    return (had.length === parts.length && parts.every((part, n) => part === had[n]) ? had : parts) as T
  }
  if (isPlain(had) && isPlain(found)) {
    const keys = Object.keys(found)
    const parts: Record<string, unknown> = {}
    let isSame = keys.length === Object.keys(had).length
    for (const key of keys) {
      parts[key] = keepSame(had[key], found[key])
      isSame &&= key in had && Object.is(parts[key], had[key])
    }
    return (isSame ? had : parts) as T
  }
  return found
}
const isPlain = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)
