/** Where the focus goes when what lay over the page is gone. */
import { onUnmounted } from 'vue'

/** `giveBack` puts it where it was when `remember` was called, unless something else has been given it meanwhile. */
export function useMemory(own: () => HTMLElement | null | undefined = () => null) {
  let before: Element | null = null
  return {
    remember: (): void => {
      before = document.activeElement
    },
    giveBack: (): void => {
      const to = before
      before = null
      // Whoever closes a menu or a dialog puts the focus on its button, or nowhere, first.
      requestAnimationFrame(() => {
        const now = document.activeElement
        if (to instanceof HTMLElement && to.isConnected && (now === document.body || now === null || now === own()))
          to.focus({ preventScroll: true })
      })
    },
  }
}

/** For a part that is there only while it lies over the page. */
export function useFocusBack(): void {
  const { remember, giveBack } = useMemory()
  remember()
  onUnmounted(giveBack)
}
