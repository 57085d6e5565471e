<script setup lang="ts">
/** Teams: what they are called, who is in them, and how they choose whom to give work to. */
import { computed, ref } from 'vue'
import { api, take } from '@/api/client'
import type { Directory } from '@/api/types'
import MultiPick from '@/components/ui/MultiPick.vue'
import { useAttempt } from '@/composables/useAttempt'
import { useDirectory } from '@/composables/useDirectory'
import { WAYS } from '@/lib/team'

type Team = Directory['teams'][number]
const props = defineProps<{ workspaceId: number; mayManage: boolean; mayChooseWay: boolean }>()
const { directory, members, byMember, refetchDirectory } = useDirectory()
const path = computed(() => ({ workspace_id: props.workspaceId }))
const { problem, isBusy, attempt } = useAttempt(refetchDirectory)
const draft = ref<{ id: number | null; name: string; members: number[] } | null>(null)
function begin(team: Team | null): void {
  problem.value = ''
  draft.value = { id: team?.id ?? null, name: team?.name ?? '', members: [...(team?.members ?? [])] }
}
async function save(): Promise<void> {
  const d = draft.value
  if (!d) return
  const body = { name: d.name, members: d.members }
  const done = await attempt(() =>
    d.id === null
      ? take(api.POST('/api/workspaces/{workspace_id}/team/teams', { params: { path: path.value }, body }))
      : take(
          api.PUT('/api/workspaces/{workspace_id}/team/teams/{team_id}/members', {
            params: { path: { ...path.value, team_id: d.id } },
            body,
          }),
        ),
  )
  if (done) draft.value = null
}
const setWay = (team: Team, way: Team['way']): Promise<boolean> =>
  attempt(() =>
    take(
      api.PUT('/api/workspaces/{workspace_id}/team/teams/{team_id}', {
        params: { path: { ...path.value, team_id: team.id } },
        body: { way },
      }),
    ),
  )
const sayMembers = (team: Team): string =>
  team.members.map((m) => byMember.value.get(m)?.name ?? 'somebody').join(', ') || 'nobody yet'
const sayWay = (team: Team): string => WAYS.find(([way]) => way === team.way)?.[1] ?? team.way
</script>

<template>
  <section class="mb-8" aria-labelledby="teams-title" data-test="teams">
    <h2 id="teams-title" class="font-name text-lg font-bold">Teams</h2>
    <p class="mb-2 text-[0.8125rem] text-ink-2">
      Colleagues that work is given to as one. What is given to a team goes to one of its members, in the way it
      chooses.
    </p>
    <p v-if="problem" role="alert" class="mb-2 text-[0.8125rem] text-brick" data-test="team-problem">{{ problem }}</p>
    <div class="rounded-md border border-rule bg-sheet px-4 py-2 text-[0.84375rem]">
      <p v-if="directory && !directory.teams.length && !draft" class="py-1 text-ink-2">No teams yet.</p>
      <template v-for="team in directory?.teams ?? []" :key="team.id">
        <div
          v-if="draft?.id !== team.id"
          class="flex flex-wrap items-baseline gap-x-3 border-b border-rule-soft py-2 last:border-0"
          data-test="team">
          <b class="min-w-32">{{ team.name }}</b>
          <span class="min-w-0 flex-1 basis-72"
            >{{ sayMembers(team) }}
            <span class="block text-xs text-ink-2"
              >gives
              <select
                v-if="mayChooseWay"
                :value="team.way"
                class="rounded border border-rule bg-raised px-1 py-px"
                :aria-label="`How ${team.name} chooses`"
                @change="setWay(team, ($event.target as HTMLSelectElement).value as Team['way'])">
                <option v-for="[way, words] in WAYS" :key="way" :value="way">{{ words }}</option></select
              ><template v-else>{{ sayWay(team) }}</template></span
            ></span
          >
          <button
            v-if="mayManage && !draft"
            type="button"
            class="text-[0.8125rem] underline"
            :aria-label="`Change ${team.name}`"
            @click="begin(team)">
            Change
          </button>
        </div>
      </template>
      <form v-if="draft" class="grid gap-2 py-2" data-test="team-form" @submit.prevent="save">
        <label class="flex flex-wrap items-center gap-2"
          ><span class="w-28 text-xs font-semibold text-ink-2">Name</span
          ><input
            v-model="draft.name"
            required
            maxlength="60"
            class="w-64 max-w-full rounded border border-rule bg-raised px-2 py-1"
            data-test="team-name" /></label
        ><span class="flex flex-wrap items-center gap-2"
          ><span class="w-28 text-xs font-semibold text-ink-2">Members</span
          ><MultiPick
            v-model="draft.members"
            label="Members of the team"
            empty="nobody"
            :choices="(members ?? []).map((m) => ({ value: m.id, text: m.name }))"
        /></span>
        <span class="flex gap-2"
          ><button
            type="submit"
            class="rounded bg-pine px-3 py-1 font-semibold text-on-pine disabled:opacity-60"
            :disabled="isBusy"
            data-test="save-team">
            Save</button
          ><button type="button" class="px-2 underline" @click="draft = null">Cancel</button></span
        >
      </form>
    </div>
    <button
      v-if="mayManage && !draft"
      type="button"
      class="mt-2 rounded border border-rule bg-raised px-2.5 py-1 text-[0.8125rem] font-semibold hover:bg-fold"
      data-test="new-team"
      @click="begin(null)">
      New team
    </button>
  </section>
</template>
