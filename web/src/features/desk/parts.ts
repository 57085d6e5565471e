/**
 * The parts of the desk that the list does not need: the open conversation and the dialogs. They come in one file, after the first rows or with
 * the first conversation that is opened, whichever is sooner; on a slow line the list is there that much earlier.
 */
import { computed, defineAsyncComponent, onScopeDispose, shallowRef } from 'vue'
import { useKeyRouter } from '@/composables/useKeys'
import { renewOnce } from '@/composables/useRenewal'

type Parts = typeof import('./opened')
const here = shallowRef<Parts | null>(null)
const isHere = computed(() => here.value !== null)
let coming: Promise<Parts> | null = null

/** Rejects when they do not come; asking again tries again. */
function bring(): Promise<Parts> {
  coming ??= import('./opened').then(
    (parts) => (here.value = parts),
    (error: unknown) => {
      coming = null
      throw error
    },
  )
  return coming
}

export const AdviceDialog = defineAsyncComponent(async () => (await bring()).AdviceDialog)
export const AskFirst = defineAsyncComponent(async () => (await bring()).AskFirst)
export const BulkAnswerDialog = defineAsyncComponent(async () => (await bring()).BulkAnswerDialog)
export const CorrectDialog = defineAsyncComponent(async () => (await bring()).CorrectDialog)
export const DeskSheet = defineAsyncComponent(async () => (await bring()).DeskSheet)
export const FindPalette = defineAsyncComponent(async () => (await bring()).FindPalette)
export const GiveDialog = defineAsyncComponent(async () => (await bring()).GiveDialog)
export const HandOverDialog = defineAsyncComponent(async () => (await bring()).HandOverDialog)
export const KeysSheet = defineAsyncComponent(async () => (await bring()).KeysSheet)
export const NameDialog = defineAsyncComponent(async () => (await bring()).NameDialog)
export const NoteDialog = defineAsyncComponent(async () => (await bring()).NoteDialog)
export const TagDialog = defineAsyncComponent(async () => (await bring()).TagDialog)
export const ThreadDialog = defineAsyncComponent(async () => (await bring()).ThreadDialog)

/** As lib/links has it; until it is here there is nothing that could be sent. */
export const asShortened: Parts['asShortened'] = (text, length) => here.value?.asShortened(text, length) ?? text

/** After so long with the list on the screen they are fetched unasked. */
const SOON = 2500

export function useParts() {
  const keys = useKeyRouter()
  let timer: ReturnType<typeof setTimeout> | undefined
  onScopeDispose(() => clearTimeout(timer))

  /** False when they do not come. When Sorta was renewed meanwhile the page is loaded anew, where one is. */
  async function come(): Promise<boolean> {
    try {
      await bring()
      return true
    } catch {
      renewOnce(window.location.href)
      return false
    }
  }
  /** Do what needs them: at once when they are here. What is typed until they are is for what opens, which is given it, and no key of the desk. */
  function once(run: (typed: string) => void): void {
    if (isHere.value) return run('')
    let typed = ''
    const stop = keys.typeAhead((more) => (typed += more))
    void come().then((came) => {
      stop()
      if (came) run(typed)
    })
  }
  /** Nobody waits for them yet: where they do not come now, whoever needs them asks again and hears of it. */
  function comeSoon(): void {
    if (!isHere.value) timer ??= setTimeout(() => void bring().catch(() => undefined), SOON)
  }
  return { isHere, come, once, comeSoon }
}
