/** Keys of a page or, with `within`, of a panel while the focus is in it. Which of them hears a key: `lib/keyRouter`. */
import { inject, onScopeDispose, toValue, type InjectionKey, type MaybeRefOrGetter } from 'vue'
import type { KeyRouter, Keys } from '@/lib/keyRouter'

export const KEY_ROUTER: InjectionKey<KeyRouter> = Symbol('keys')

export function useKeyRouter(): KeyRouter {
  const router = inject(KEY_ROUTER)
  if (!router) throw new Error('Nobody listens to keys here')
  return router
}

export function useKeys(keys: Keys, within?: MaybeRefOrGetter<HTMLElement | null | undefined>): void {
  const root = within === undefined ? undefined : (): HTMLElement | null => toValue(within) ?? null
  onScopeDispose(useKeyRouter().add(() => keys, root))
}
