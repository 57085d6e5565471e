/** For who found nothing: what they may have meant, of the words that stand in the workspace. */
import { ref, watch, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'

const PAUSE = 250

export function useSuggestion(workspaceId: Ref<number>, words: Ref<string>, isNothing: Ref<boolean>) {
  const suggestion = ref<string | null>(null)
  let turn = 0
  watch(
    [words, isNothing],
    async ([now, nothing]) => {
      const mine = ++turn
      suggestion.value = null
      if (!nothing || now.trim().length < 4) return
      await new Promise((resolve) => setTimeout(resolve, PAUSE))
      if (mine !== turn) return
      try {
        const query = { words: now.slice(0, 200) }
        const path = { workspace_id: workspaceId.value }
        const found = await take(api.GET('/api/workspaces/{workspace_id}/find/suggestion', { params: { path, query } }))
        if (mine === turn) suggestion.value = found.words
      } catch (error) {
        // Nothing is missed but a hint; that nothing was found is said all the same.
        if (!(error instanceof ApiProblem)) throw error
      }
    },
    { immediate: true },
  )
  return suggestion
}
