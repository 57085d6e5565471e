<script setup lang="ts">
/** What is asked before something is done to all that are selected. */
import { useDirectory } from '@/composables/useDirectory'
import { BulkAnswerDialog, GiveDialog, HandOverDialog, NoteDialog, TagDialog } from './parts'
import type { Bulk } from './useBulk'

const props = defineProps<{ bulk: Bulk; workspaceId: number }>()
const { members, directory, offeredTags } = useDirectory()
function handOver(note: string): void {
  const desk = props.bulk.handing.value
  if (desk)
    void props.bulk.act({ act: 'hand_over', desk_id: desk.id, note: note || null }, `handed over to ${desk.name}`)
}
</script>

<template>
  <TagDialog
    v-if="bulk.dialog.value === 'tag' || bulk.dialog.value === 'tagPerson'"
    :title="`Tag ${bulk.dialog.value === 'tagPerson' ? 'the people of ' : ''}${bulk.count.value} conversations`"
    :known="offeredTags.map((t) => t.name)"
    :on="[]"
    @close="bulk.close"
    @tag="bulk.tag" />
  <BulkAnswerDialog
    v-if="bulk.dialog.value === 'answer'"
    :workspace-id="workspaceId"
    :count="bulk.count.value"
    @close="bulk.close"
    @answer="bulk.answer" />
  <HandOverDialog
    v-if="bulk.handing.value"
    :desk="bulk.handing.value"
    :count="bulk.count.value"
    @close="bulk.close"
    @hand="handOver" />
  <GiveDialog
    v-if="bulk.dialog.value === 'give'"
    :members="members ?? []"
    :teams="directory?.teams ?? []"
    :owner="null"
    :team="null"
    @close="bulk.close"
    @give="(to, team, note) => bulk.act({ act: 'assign', owner_id: to, team_id: team, note: note || null }, 'given')" />
  <NoteDialog
    v-if="bulk.dialog.value === 'note'"
    :title="`A team note on ${bulk.count.value} conversations`"
    @close="bulk.close"
    @note="(text) => bulk.act({ act: 'note', text }, 'noted')" />
</template>
