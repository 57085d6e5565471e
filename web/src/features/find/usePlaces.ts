/** The places one can go to by find-or-do, from wherever one is. */
import { computed, type ComputedRef } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import type { Move } from '@/api/types'
import { useDirectory } from '@/composables/useDirectory'
import { listSections } from '@/lib/setup'
import { MOVES } from '@/lib/words'
import { useSession } from '@/stores/session'
import type { Doable } from './FindPalette.vue'

/** `pickMove` is how the desk itself changes its move: with the filters that are set. */
export function usePlaces(pickMove?: (move: Move) => void): ComputedRef<Doable[]> {
  const router = useRouter()
  const session = useSession()
  const { directory } = useDirectory()
  return computed(() => {
    const params = { workspace: String(session.workspaceId) }
    const go = (words: string, to: RouteLocationRaw, key?: string): Doable => ({
      words,
      ...(key ? { key } : {}),
      run: () => void router.push(to),
    })
    return [
      ...MOVES.map(([move, word], n) => {
        const place = go(`Desk: ${word}`, { name: 'desk', params, query: { move } }, `Shift ${n + 1}`)
        return pickMove ? { ...place, run: () => pickMove(move) } : place
      }),
      go('My day: what is due, waited for and done', { name: 'day', params }),
      go('Overview: open work and the live feed', { name: 'overview', params }),
      go('Approvals: answers that wait', { name: 'approvals', params }),
      go('Team: who has what in hand', { name: 'team', params }),
      go('People', { name: 'people', params }),
      ...(session.may('see_reports')
        ? [
            go('Reports: how we answered', { name: 'reports', params }),
            go('Accounts’ health', { name: 'health', params }),
          ]
        : []),
      go('Rules', { name: 'rules', params }),
      go('What rules did by themselves', { name: 'review', params }),
      go('Outgoing: what waits, what is sent later', { name: 'outgoing', params }),
      go('Words: what they mean', { name: 'words', params }),
      go('Prize draws', { name: 'draws', params }),
      ...(directory.value?.desks.length ? [go('Cases: what was handed over', { name: 'cases', params })] : []),
      ...(session.may('manage_members') ? [go('Record of changes', { name: 'record', params })] : []),
      ...listSections(session.may).map(({ id, words }) =>
        go(`Setup: ${words}`, { name: 'setup', params, hash: `#${id}` }),
      ),
      ...(session.session?.workspaces ?? [])
        .filter((w) => w.id !== session.workspaceId)
        .map((w) => go(`Workspace: ${w.name}`, { name: 'desk', params: { workspace: String(w.id) } })),
    ]
  })
}
