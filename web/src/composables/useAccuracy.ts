/** How right the reading has been here, on messages that somebody looked at for that. */
import { useAsk } from '@/composables/useAsk'
import { api, take } from '@/api/client'
import type { Accuracy } from '@/api/types'

export type Share = Accuracy['labels'][number]['right']

const percent = (share: number): string => `${Math.round(share * 100)} %`

/** A share with the interval it lies in, or that there are too few to say. */
export const sayShare = (s: Share): string =>
  s.is_too_few ? `too few (${s.hits} of ${s.of})` : `${percent(s.hits / s.of)}, ${percent(s.low)} to ${percent(s.high)}`

export const useAccuracy = (workspaceId: () => number, enabled: () => boolean = () => true) =>
  useAsk<Accuracy>('How often the reading was right', {
    key: () => ['reading', workspaceId()],
    query: () =>
      take(api.GET('/api/workspaces/{workspace_id}/reading', { params: { path: { workspace_id: workspaceId() } } })),
    enabled,
  })
