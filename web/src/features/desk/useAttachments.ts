/** The files that go along with what is being written: added, shown, taken away again. */
import { computed, ref, type Ref } from 'vue'
import { api, ApiProblem, take } from '@/api/client'
import type { Attachment, LibraryFile } from '@/api/types'

export function useAttachments(
  workspaceId: Ref<number>,
  conversation: () => number | null,
  files: Ref<Attachment[]>,
  onChange: () => void,
) {
  /** Names of those that are on their way to Sorta. */
  const coming = ref<string[]>([])
  const problem = ref<string | null>(null)
  const ids = computed(() => files.value.map((f) => f.id).filter((id) => id != null))

  /** One file that `ask` puts beside what is being written; why it is not there is said with its name. */
  async function bring(name: string, ask: (conversation: number) => Promise<Attachment>): Promise<void> {
    const id = conversation()
    if (id === null) return
    coming.value.push(name)
    try {
      const kept = await ask(id)
      if (conversation() !== id) return
      files.value.push(kept)
      onChange()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = `${name}: ${error.message}`
    } finally {
      coming.value = coming.value.filter((one) => one !== name)
    }
  }
  /** Each on its own, so that one that is not taken does not hold up the others. */
  async function add(list: Iterable<File>): Promise<void> {
    const here = conversation()
    problem.value = null
    for (const file of list) {
      if (conversation() !== here) return
      await bring(file.name, (id) =>
        take(
          api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/attachments', {
            params: {
              path: { workspace_id: workspaceId.value, conversation_id: id },
              query: { name: file.name || 'pasted' },
            },
            body: file as unknown as string,
            bodySerializer: (body) => body as unknown as BodyInit,
            headers: { 'Content-Type': file.type || 'application/octet-stream' },
          }),
        ),
      )
    }
  }
  /** One of the workspace's own files, with what is said about it there. */
  async function addKept(kept: LibraryFile): Promise<void> {
    problem.value = null
    await bring(kept.name, (id) =>
      take(
        api.POST('/api/workspaces/{workspace_id}/conversations/{conversation_id}/attachments/library/{library_id}', {
          params: { path: { workspace_id: workspaceId.value, conversation_id: id, library_id: kept.id } },
        }),
      ),
    )
  }
  /** The descriptions that are on their way: what is sent waits for them. */
  const telling = new Set<Promise<void>>()
  /** Say what a picture shows. Where an answer holds it already the server gives another in its place. */
  function describe(file: Attachment, words: string): Promise<void> {
    const told = tell(file, words).finally(() => telling.delete(told))
    telling.add(told)
    return told
  }
  async function tell(file: Attachment, words: string): Promise<void> {
    const id = conversation()
    if (id === null || file.id == null) return
    problem.value = null
    try {
      const told = await take(
        api.PUT('/api/workspaces/{workspace_id}/attachments/{attachment_id}/description', {
          params: { path: { workspace_id: workspaceId.value, attachment_id: file.id } },
          body: { description: words },
        }),
      )
      if (conversation() !== id) return
      files.value = files.value.map((f) => (f.id === file.id ? told : f))
      onChange()
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      problem.value = `${file.name}: ${error.message}`
    }
  }
  const allTold = (): Promise<unknown> => Promise.all(telling)
  /** Out of what is being written, and away unless an answer that was taken back still shows it. */
  async function remove(file: Attachment): Promise<void> {
    files.value = files.value.filter((f) => f.id !== file.id)
    problem.value = null
    onChange()
    if (file.id == null) return
    try {
      await take(
        api.DELETE('/api/workspaces/{workspace_id}/attachments/{attachment_id}', {
          params: { path: { workspace_id: workspaceId.value, attachment_id: file.id } },
        }),
      )
    } catch (error) {
      if (!(error instanceof ApiProblem)) throw error
      if (error.kind !== 'too-late') problem.value = error.message
    }
  }
  function set(list: Attachment[]): void {
    files.value = list
    problem.value = null
  }
  return { files, ids, coming, problem, add, addKept, describe, allTold, remove, set }
}
export type Attachments = ReturnType<typeof useAttachments>
