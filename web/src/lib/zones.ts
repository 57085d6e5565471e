/** Time zones. */

/** Those one can choose from; browsers leave out the universal one, by which many machines go. */
export const ZONES: readonly string[] = [...new Set([...Intl.supportedValuesOf('timeZone'), 'UTC'])]
/** This device's. */
export const OWN_ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone
