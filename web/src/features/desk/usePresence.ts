/** Who is reading and writing what, told to each other every few seconds. */
import { computed, onScopeDispose, shallowRef, watch, type Ref } from 'vue'
import { api, ApiProblem, take, tell } from '@/api/client'
import type { Present } from '@/api/types'
import type { Notice } from '@/composables/useLive'
import { takeFirst } from '@/api/first'
import { afterPaint } from '@/lib/afterPaint'
import { keepSame } from '@/lib/keepSame'

const EVERY = 10_000
const GONE_AFTER = 25_000
const JUST_FOR = 60_000

type Heard = Present & { at: number }
/** One list for every conversation that nobody has open: what is given it has nothing to paint anew. */
export const NOBODY: Present[] = []

export function usePresence(
  workspaceId: Ref<number>,
  me: Ref<number>,
  conversation: Ref<number | null>,
  isWriting: Ref<boolean>,
) {
  const heard = shallowRef<Map<number, Heard>>(new Map())
  /** The last answers, by conversation. */
  const answered = shallowRef<Map<number, Heard>>(new Map())

  function say(): void {
    if (!workspaceId.value) return
    tell(
      api.PUT('/api/workspaces/{workspace_id}/presence', {
        params: { path: { workspace_id: workspaceId.value } },
        body: { conversation_id: conversation.value, doing: isWriting.value ? 'writing' : 'reading' },
      }),
    )
  }

  /** Who was here before could not be asked for: asked again with the next saying. */
  let isOwed = false
  async function load(): Promise<void> {
    const id = workspaceId.value
    if (!id) return
    let all: Present[]
    try {
      all = await (takeFirst(id, 'presence') ??
        take(api.GET('/api/workspaces/{workspace_id}/presence', { params: { path: { workspace_id: id } } })))
      isOwed = false
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      isOwed = true
      return
    }
    heard.value = new Map(all.map((p) => [p.member_id, { ...p, at: Date.now() }]))
  }

  function onNotice(notice: Notice): void {
    if (notice.kind !== 'presence' || notice.member === undefined) return
    if (notice.doing === 'answered') {
      if (notice.conversation)
        answered.value = new Map(answered.value).set(notice.conversation, {
          member_id: notice.member,
          conversation_id: notice.conversation,
          doing: 'answered',
          at: Date.now(),
        })
      return
    }
    const next = new Map(heard.value)
    if (notice.conversation && notice.doing)
      next.set(notice.member, {
        member_id: notice.member,
        conversation_id: notice.conversation,
        doing: notice.doing,
        at: Date.now(),
      })
    else next.delete(notice.member)
    heard.value = next
  }

  const timer = setInterval(() => {
    say()
    if (isOwed) void load()
    const now = Date.now()
    const fresh = [...heard.value].filter(([, p]) => now - p.at < GONE_AFTER)
    if (fresh.length !== heard.value.size) heard.value = new Map(fresh)
    const late = [...answered.value].filter(([, p]) => now - p.at < JUST_FOR)
    if (late.length !== answered.value.size) answered.value = new Map(late)
  }, EVERY)
  watch([workspaceId, conversation, isWriting], () => afterPaint(say), { immediate: true })
  watch(workspaceId, () => void load(), { immediate: true })
  onScopeDispose(() => {
    clearInterval(timer)
    conversation.value = null
    say()
  })

  /** The others, by the conversation they have open; whoever writes comes first. Said again and again, it stays what it was. */
  const others = computed<Map<number, Present[]>>((had) => {
    const map = new Map<number, Present[]>()
    for (const { member_id, conversation_id, doing } of [...answered.value.values(), ...heard.value.values()]) {
      if (member_id === me.value) continue
      const list = map.get(conversation_id) ?? []
      const one = { member_id, conversation_id, doing }
      map.set(conversation_id, doing === 'writing' ? [one, ...list] : [...list, one])
    }
    for (const [id, list] of map) map.set(id, keepSame(had?.get(id), list))
    const isSame = had?.size === map.size && [...map].every(([id, list]) => had.get(id) === list)
    return isSame ? had : map
  })
  return { others, onNotice, load }
}
