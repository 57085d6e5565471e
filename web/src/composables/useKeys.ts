/** Single keys act on the open conversation, but never while somebody is typing or a menu is open. */
import { onScopeDispose } from 'vue'

export type Keys = Record<string, (event: KeyboardEvent) => void>

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement &&
  target.closest('input, textarea, select, [contenteditable], [role=dialog], [role=menu]') !== null

/** `keys` maps `event.key` (letters in lower case; `ctrl+k`, `shift+1`, `shift+n`; a letter without a meaning of its own with Shift means what it means without) to what it does. */
export function useKeys(keys: Keys): void {
  function onKey(event: KeyboardEvent): void {
    const chord = event.ctrlKey || event.metaKey
    const digit = event.shiftKey && event.code.startsWith('Digit') ? `shift+${event.code.slice(5)}` : null
    const arrow =
      event.shiftKey && (event.key.startsWith('Arrow') || event.key === 'Delete') ? `shift+${event.key}` : null
    const shifted = event.shiftKey && !chord && event.key.length === 1 ? `shift+${event.key.toLowerCase()}` : ''
    const name =
      digit ??
      arrow ??
      (keys[shifted] ? shifted : null) ??
      `${chord ? 'ctrl+' : ''}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`
    const act = keys[name]
    if (!act || event.altKey || event.defaultPrevented || (!chord && isTyping(event.target))) return
    event.preventDefault()
    act(event)
  }
  window.addEventListener('keydown', onKey)
  onScopeDispose(() => window.removeEventListener('keydown', onKey))
}
