/** A place that could not be opened: a part of the pages does not load, also anew, or the server did not answer. */
import { ref, type Ref } from 'vue'

const RENEWED = 'sorta-renewed'
const failed = ref<{ path: string; reason: string } | null>(null)
export function useRenewal(): { failed: Ref<{ path: string; reason: string } | null> } {
  return { failed }
}

/**
 * A part of the pages is not there any more: Sorta has been renewed meanwhile. The whole page is loaded anew, where one wanted to go; words that were
 * being written are kept on the device. Once only: when it is not there after that either, it is away for another reason, and the page says so.
 * Without a line there is nothing to load anew: what is on the page stays.
 */
export function renewOnce(path: string): void {
  if (!navigator.onLine) {
    failed.value = { path, reason: 'This device is offline. What you wrote is kept.' }
    return
  }
  const last = Number(sessionStorage.getItem(RENEWED) ?? 0)
  if (Date.now() - last < 10_000)
    failed.value = { path, reason: 'A part of Sorta does not load. What you wrote is kept.' }
  else {
    sessionStorage.setItem(RENEWED, String(Date.now()))
    window.location.assign(path)
  }
}
