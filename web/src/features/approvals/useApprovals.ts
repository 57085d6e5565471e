/** Answers that wait for approval and what can be done to them; failures come back as words. */
import { useAsk } from '@/composables/useAsk'
import { computed, ref, type Ref } from 'vue'
import { api, take } from '@/api/client'
import { useAttempt } from '@/composables/useAttempt'
import type { Message, Sheet, WaitingProposal } from '@/api/types'

export function useApprovals(workspaceId: Ref<number>, openId: Ref<number | null>) {
  const {
    data: waiting,
    refetch,
    ask: listAsk,
  } = useAsk<WaitingProposal[]>('What waits for approval', {
    key: () => ['approvals', workspaceId.value],
    query: () =>
      take(
        api.GET('/api/workspaces/{workspace_id}/approvals', { params: { path: { workspace_id: workspaceId.value } } }),
      ),
  })
  const mine = computed(() => (waiting.value ?? []).filter((p) => p.mine))
  const others = computed(() => (waiting.value ?? []).filter((p) => !p.mine))
  const open = computed(() => waiting.value?.find((p) => p.id === openId.value) ?? null)
  const {
    data: sheet,
    refetch: refetchSheet,
    ask: sheetAsk,
  } = useAsk<Sheet | null>('The conversation', {
    key: () => ['approval-sheet', workspaceId.value, open.value?.conversation_id ?? 0],
    query: async () =>
      open.value
        ? take(
            api.GET('/api/workspaces/{workspace_id}/conversations/{conversation_id}', {
              params: { path: { workspace_id: workspaceId.value, conversation_id: open.value.conversation_id } },
            }),
          )
        : null,
  })
  /** They wrote again while one looked: look at the sheet first. */
  const movedOn = ref(false)

  const { problem, attemptFor } = useAttempt(
    () => Promise.all([refetch(), refetchSheet()]),
    (refusal) => void (movedOn.value = refusal.kind === 'moved-on'),
  )
  function decide<T>(work: () => Promise<T>): Promise<T | null> {
    movedOn.value = false
    return attemptFor(work)
  }
  /** What the open answer says in our language, as the translator has it; for one answer and its words. */
  const inOurs = ref<{ of: string; text: string } | null>(null)
  /** What is being translated: a second key asks nobody again. */
  let translating: string | null = null
  const mark = (): string => `${open.value?.id} ${open.value?.body}`
  /** What they wrote and what we would say, both in our language; nothing is asked twice. */
  async function translate(ownLanguage: string, foreign: Message[], answerToo: boolean): Promise<void> {
    const of = mark()
    if (translating === of) return
    translating = of
    const body = open.value?.body
    await decide(async () => {
      for (const message of foreign)
        await take(
          api.POST('/api/workspaces/{workspace_id}/messages/{message_id}/translation', {
            params: { path: { workspace_id: workspaceId.value, message_id: message.id } },
            body: { language: ownLanguage },
          }),
        )
      if (!answerToo || !body) return
      const made = await take(
        api.POST('/api/workspaces/{workspace_id}/translation', {
          params: { path: { workspace_id: workspaceId.value } },
          body: { text: body, language: ownLanguage },
        }),
      )
      inOurs.value = { of, text: made.text }
    })
    if (translating === of) translating = null
  }
  const at = (id: number) => ({ params: { path: { workspace_id: workspaceId.value, proposal_id: id } } })
  const approve = (id: number, seenSeq: number, text: string | null) =>
    decide(() =>
      take(
        api.POST('/api/workspaces/{workspace_id}/proposals/{proposal_id}/approve', {
          ...at(id),
          body: { seen_seq: seenSeq, text },
        }),
      ),
    )
  const sendBack = (id: number, reason: string) =>
    decide(async () => {
      await take(
        api.POST('/api/workspaces/{workspace_id}/proposals/{proposal_id}/send-back', { ...at(id), body: { reason } }),
      )
      return true
    })
  return {
    waiting,
    mine,
    others,
    open,
    sheet,
    listAsk,
    sheetAsk,
    problem,
    movedOn,
    refetch: () => Promise.all([refetch(), refetchSheet()]),
    approve,
    sendBack,
    translate,
    inOurs: computed(() => (inOurs.value?.of === mark() ? inOurs.value.text : null)),
  }
}
