/** Where one was at the desk last, in this tab and for each workspace: the desk's link leads back there. */
const keyOf = (workspace: number): string => `sorta-desk-${workspace}`

export function rememberDesk(workspace: number, path: string): void {
  try {
    sessionStorage.setItem(keyOf(workspace), path)
  } catch {
    // A browser that keeps nothing begins at the beginning.
  }
}
export function recallDesk(workspace: number): string | null {
  try {
    const path = sessionStorage.getItem(keyOf(workspace))
    return path?.startsWith(`/w/${workspace}/desk`) ? path : null
  } catch {
    return null
  }
}
