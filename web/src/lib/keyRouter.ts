/**
 * The one listener for keys. A key goes to the innermost open scope (field, dialog or menu, panel, page) or it is lost:
 * nothing below an open dialog, menu, listbox or popover hears it. What is open is read from the page itself, so that a
 * new dialog is a scope without saying so.
 */

/** As a member wants single-character keys (WCAG 2.1.4): as they are, only together with Alt, or not at all. */
export type SingleKeys = 'plain' | 'alt' | 'off'
export type Act = (event: KeyboardEvent) => void
/** `R`: letters in lower case; `shift+n`, `shift+1`, `ctrl+k`, `alt+ArrowUp`. */
export type Keys = Record<string, Act>

interface Scope {
  keys: () => Keys
  /** The panel that hears the keys while the focus is in it; none for a page. */
  within: (() => HTMLElement | null) | undefined
}

/** Whatever lies over the page. `data-key-scope` marks what has none of these roles, `data-inline` a list that stands in
 * its dialog from the start. */
const OVERLAYS = '[role=dialog], [role=alertdialog], [role=menu], [role=listbox]:not([data-inline]), [data-key-scope]'
const FIELDS = 'input, textarea, select, [contenteditable=""], [contenteditable=true], emoji-picker'
/** What the browser presses by Space; a link it does not, so that on a row of the queue it can select. */
const BY_SPACE =
  'button, summary, select, [role=switch], [role=menuitem], [role=tab], input[type=checkbox], input[type=radio]'
const PRESSABLE = 'button, a, summary, select, [role=switch], [role=menuitem], [role=tab]'
/** What a field does with these itself; no scope takes them from it. */
const OF_A_FIELD = new Set(['a', 'c', 'v', 'x', 'y', 'z'].map((key) => `ctrl+${key}`))
/** Held down, only these go on: walking. */
const WALKING = new Set(['ArrowUp', 'ArrowDown', 'ArrowLeft', 'ArrowRight', 'shift+ArrowUp', 'shift+ArrowDown'])
const QUIET_AFTER = 1000

/** The key as scopes name it: by what it says on it, and by its place where that is no Latin letter. */
function nameOf(event: KeyboardEvent): { name: string; isSingle: boolean } {
  const chord = event.ctrlKey || event.metaKey ? 'ctrl+' : ''
  const place = /^(?:Key|Digit)(.)$/.exec(event.code)?.[1]?.toLowerCase() ?? { Slash: '/' }[event.code]
  // A dead key is one that Alt makes wait for a letter to put a sign on.
  const isCharacter = event.key.length === 1 || event.key === 'Dead'
  let said = isCharacter ? event.key.toLowerCase() : event.key
  // Another script, or Alt making a sign of its own: the place of the key counts.
  if (place && isCharacter && (!/^[\x20-\x7e]$/.test(event.key) || event.altKey || chord)) said = place
  if (said === '/' && event.shiftKey) said = '?'
  const isDigit = event.code.startsWith('Digit')
  const shift = event.shiftKey && (said.length > 1 || /[a-z]/.test(said) || isDigit) ? 'shift+' : ''
  if (shift && isDigit) said = place ?? said
  // Space says nothing that one could write by mistake (WCAG 2.1.4 is about letters, digits and signs).
  return { name: `${chord}${shift}${said}`, isSingle: isCharacter && !chord && said !== ' ' }
}

export class KeyRouter {
  singleKeys: SingleKeys = 'plain'
  /** When something was last typed into a field, by `performance.now()`. */
  lastTyped = 0
  private scopes: Scope[] = []
  private quietUntil = 0
  /** Somewhere words are about to be written; what is typed until then is kept for it. */
  private ahead: ((typed: string) => void) | null = null

  constructor(window: Window) {
    window.addEventListener('keydown', (event) => this.hear(event), { capture: true })
  }

  /** Listen until the returned function is called. */
  add(keys: () => Keys, within?: () => HTMLElement | null): () => void {
    const scope: Scope = { keys, within }
    this.scopes.push(scope)
    return () => {
      this.scopes = this.scopes.filter((s) => s !== scope)
    }
  }

  /** What was asked for cannot be done: letters that follow mean words, not acts, until a second without one or Escape. */
  swallowLetters(): void {
    this.quietUntil = performance.now() + QUIET_AFTER
  }

  /** A field is about to appear: characters go to `take` until the returned function is called. */
  typeAhead(take: (typed: string) => void): () => void {
    this.ahead = take
    return () => {
      if (this.ahead === take) this.ahead = null
    }
  }

  private hear(event: KeyboardEvent): void {
    // Part of a word that an input method is still putting together.
    if (event.isComposing || event.keyCode === 229) return
    const target = event.target instanceof HTMLElement ? event.target : document.body
    const field = target.closest<HTMLElement>(FIELDS)
    const { name, isSingle } = nameOf(event)
    const isSpace = event.key === ' '
    if (isSpace && target.closest(BY_SPACE)) return
    if (field && (isSingle || isSpace)) this.lastTyped = performance.now()
    const overlay = topOverlay()
    if (!field && !overlay && this.hearWords(event, isSingle || isSpace)) return drop(event)
    // The browser presses a button again and again while Enter is held, also the one that the focus has come back to.
    if (event.repeat && isPress(event, target)) return drop(event)
    if (field && (OF_A_FIELD.has(name) || isSpace || (isSingle && !event.altKey))) return
    const act = this.find(name, isSingle && !field, event.altKey, target, overlay)
    if (!act) return
    if (event.repeat && !WALKING.has(name)) return drop(event)
    drop(event)
    act(event)
  }

  /** Whether the key belongs to words that cannot be written (any more, or yet). */
  private hearWords(event: KeyboardEvent, isSingle: boolean): boolean {
    if (event.altKey || event.ctrlKey || event.metaKey) return false
    if (this.ahead) {
      if (isSingle) this.ahead(event.key)
      else if (event.key === 'Enter') this.ahead('\n')
      return isSingle || event.key === 'Enter'
    }
    if (performance.now() > this.quietUntil) return false
    if (event.key === 'Escape') this.quietUntil = 0
    else if (isSingle || event.key === 'Backspace' || event.key === 'Delete' || event.key === 'Enter')
      this.swallowLetters()
    else return false
    return true
  }

  private find(
    name: string,
    isSingle: boolean,
    alt: boolean,
    target: HTMLElement,
    overlay: HTMLElement | null,
  ): Act | undefined {
    let wanted = [`${alt ? 'alt+' : ''}${name}`]
    if (isSingle) {
      if (this.singleKeys === 'off') return undefined
      if (this.singleKeys === 'alt') wanted = alt ? [name] : []
    }
    // A letter without a meaning of its own with Shift means what it means without.
    if (wanted[0] && /^shift\+[a-z]$/.test(wanted[0])) wanted.push(wanted[0].slice(-1))
    const isField = target.closest(FIELDS) !== null
    for (const scope of this.inner(target, overlay)) {
      const keys = scope.keys()
      // Only the panel that a field stands in may take named keys from it; a page gets its chords.
      if (isField && !scope.within && !name.startsWith('ctrl+')) continue
      for (const one of wanted) if (keys[one]) return keys[one]
    }
    return undefined
  }

  /** The scopes that may hear a key, innermost first. */
  private inner(target: HTMLElement, overlay: HTMLElement | null): Scope[] {
    const panels: { scope: Scope; root: HTMLElement }[] = []
    for (const scope of this.scopes) {
      const root = scope.within?.()
      if (!root || (overlay && !overlay.contains(root))) continue
      // What lies over the page hears its keys also when the focus has been lost to the page.
      if (root.contains(target) || (overlay && !overlay.contains(target))) panels.push({ scope, root })
    }
    panels.sort((a, b) => (a.root.contains(b.root) ? 1 : -1))
    const pages = overlay ? [] : this.scopes.filter((s) => !s.within).reverse()
    return [...panels.map((p) => p.scope), ...pages]
  }
}

const drop = (event: KeyboardEvent): void => {
  event.preventDefault()
  event.stopImmediatePropagation()
}
const isPress = (event: KeyboardEvent, target: HTMLElement): boolean =>
  (event.key === 'Enter' && target.closest(`${PRESSABLE}, input`) !== null) ||
  (event.key === ' ' && target.closest(`${PRESSABLE}, input[type=checkbox], input[type=radio]`) !== null)

/** The last one opened: what is opened from a dialog stands in it or after it. */
function topOverlay(): HTMLElement | null {
  const open = [...document.querySelectorAll<HTMLElement>(OVERLAYS)].filter((el) => el.getClientRects().length > 0)
  return open.at(-1) ?? null
}
