/** How the member wants the screen, put on the page; style.css does the rest. */
export interface Worn {
  single_keys: string
  theme: string
  text_size: number
}
const KEPT = 'sorta-screen'

export function wear({ single_keys, theme, text_size }: Worn): void {
  const { dataset, style } = document.documentElement
  dataset.singleKeys = single_keys
  dataset.theme = theme
  style.fontSize = text_size === 100 ? '' : `${text_size}%`
  try {
    localStorage.setItem(KEPT, JSON.stringify({ single_keys, theme, text_size }))
  } catch {
    // A browser that keeps nothing asks the server each time.
  }
  window.dispatchEvent(new Event(WORN))
}
/** Said to what draws by itself and cannot follow the style. */
export const WORN = 'sorta-worn'

/** Before it is known who looks: as it was here last, so that nobody's dark room is lit up. */
export function recall(): void {
  try {
    const kept = JSON.parse(localStorage.getItem(KEPT) ?? 'null') as Partial<Worn> | null
    if (kept) wear({ single_keys: 'plain', theme: 'device', text_size: 100, ...kept })
  } catch {
    // What was kept cannot be read: it is written anew once one is signed in.
  }
}
