/** Naming a colleague in a note: '@' and the beginning of a name offer who that can be. */
import { computed, nextTick, ref, type Ref } from 'vue'
import { useDirectory } from '@/composables/useDirectory'
import { useKeys } from '@/composables/useKeys'

const MOST = 6
let fields = 0

export function useMentions(
  area: Ref<HTMLTextAreaElement | null>,
  text: Ref<string>,
  isOn: () => boolean,
  changed: () => void,
) {
  const { members } = useDirectory()
  const listId = `mentions-${++fields}`
  /** What stands between the at sign and the caret; null while nobody is being named. */
  const asked = ref<{ from: number; words: string } | null>(null)
  const active = ref(0)
  const found = computed(() => {
    const words = asked.value?.words.toLocaleLowerCase()
    if (words === undefined) return []
    const begins = (name: string): boolean =>
      name.toLocaleLowerCase().startsWith(words) ||
      name.split(' ').some((part) => part.toLocaleLowerCase().startsWith(words))
    return (members.value ?? []).filter((m) => begins(m.name)).slice(0, MOST)
  })

  /** After every change of the text or the caret. */
  function look(): void {
    const at = area.value?.selectionStart ?? 0
    const match = isOn()
      ? /(?:^|[^\w.@])@([\p{L}\p{M}'’-]*(?: [\p{L}\p{M}'’-]*)?)$/u.exec(text.value.slice(0, at))
      : null
    const words = match?.[1] ?? ''
    asked.value = match ? { from: at - words.length - 1, words } : null
    active.value = 0
  }
  async function pick(n: number): Promise<void> {
    const one = found.value[n]
    if (!one || !asked.value) return
    const { from, words } = asked.value
    const name = `@${one.name} `
    text.value = text.value.slice(0, from) + name + text.value.slice(from + 1 + words.length).replace(/^ /, '')
    asked.value = null
    changed()
    await nextTick()
    area.value?.focus()
    area.value?.setSelectionRange(from + name.length, from + name.length)
  }
  function step(by: number): void {
    active.value = (active.value + found.value.length + by) % found.value.length
  }
  // Only while somebody is offered: else these keys are the field's.
  useKeys(
    {
      ArrowDown: () => step(1),
      ArrowUp: () => step(-1),
      Enter: () => void pick(active.value),
      Tab: () => void pick(active.value),
      Escape: () => (asked.value = null),
    },
    () => (found.value.length ? area.value?.parentElement : null),
  )
  const optionId = (n: number): string => `${listId}-${n}`
  /** What the field says of the list to who does not see it. */
  const says = computed(() =>
    found.value.length
      ? {
          'aria-autocomplete': 'list' as const,
          'aria-controls': listId,
          'aria-activedescendant': optionId(active.value),
        }
      : {},
  )
  return { found, active, look, pick, says, listId, optionId }
}
export type Mentions = ReturnType<typeof useMentions>
