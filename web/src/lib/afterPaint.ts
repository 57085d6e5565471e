/** What nobody waits for (how far one has read, what one is doing) is done once what a key asked for stands on the screen. */
export function afterPaint(run: () => void): void {
  // A page that is not shown is not painted.
  if (document.hidden) setTimeout(run)
  else requestAnimationFrame(() => setTimeout(run))
}
