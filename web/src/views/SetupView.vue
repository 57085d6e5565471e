<script setup lang="ts">
import { computed, ref } from 'vue'
import { useDirectory } from '@/composables/useDirectory'
import type { Notice } from '@/composables/useLive'
import AppFrame from '@/features/frame/AppFrame.vue'
import AccountList from '@/features/setup/AccountList.vue'
import AlertDefaults from '@/features/setup/AlertDefaults.vue'
import AsideList from '@/features/setup/AsideList.vue'
import ClockList from '@/features/setup/ClockList.vue'
import DeskList from '@/features/setup/DeskList.vue'
import DomainList from '@/features/setup/DomainList.vue'
import GroupList from '@/features/setup/GroupList.vue'
import HoursForm from '@/features/setup/HoursForm.vue'
import ImportConversations from '@/features/setup/ImportConversations.vue'
import InvitationList from '@/features/setup/InvitationList.vue'
import ListeningList from '@/features/setup/ListeningList.vue'
import PolicyList from '@/features/setup/PolicyList.vue'
import LibraryList from '@/features/setup/LibraryList.vue'
import LinkList from '@/features/setup/LinkList.vue'
import ProgramList from '@/features/setup/ProgramList.vue'
import ReadingAccuracy from '@/features/setup/ReadingAccuracy.vue'
import RoleTable from '@/features/setup/RoleTable.vue'
import SecondNeeds from '@/features/setup/SecondNeeds.vue'
import AboutWorkspace from '@/features/setup/AboutWorkspace.vue'
import TagList from '@/features/setup/TagList.vue'
import TeamList from '@/features/setup/TeamList.vue'
import SecurityLog from '@/features/setup/SecurityLog.vue'
import SectionList from '@/features/setup/SectionList.vue'
import SavedReplyList from '@/features/setup/SavedReplyList.vue'
import { listSections } from '@/lib/setup'
import { useSession } from '@/stores/session'

const session = useSession()
const { refetchAccounts, refetchMembers, refetchDirectory } = useDirectory()
const workspaceId = computed(() => session.workspaceId)
const zone = computed(() => session.workspace?.time_zone ?? 'UTC')
const page = ref<HTMLElement | null>(null)
const sections = computed(() => listSections(session.may).map(({ id, words }) => [id, words] as const))
const policies = ref<InstanceType<typeof PolicyList> | null>(null)
const roles = ref<InstanceType<typeof RoleTable> | null>(null)
const invitations = ref<InstanceType<typeof InvitationList> | null>(null)
const groups = ref<InstanceType<typeof GroupList> | null>(null)
const tags = ref<InstanceType<typeof TagList> | null>(null)
const hours = ref<InstanceType<typeof HoursForm> | null>(null)
function onNotice(notice: Notice): void {
  if (notice.kind === 'approvals') void policies.value?.refetch()
  if (notice.kind === 'roles') {
    void roles.value?.refetch()
    void invitations.value?.refetch()
    void groups.value?.refetch()
    void refetchMembers()
  }
  if (notice.kind === 'tags') void tags.value?.refetch()
  if (notice.kind === 'tags' || notice.kind === 'team') void refetchDirectory()
  if (notice.kind === 'accounts') void refetchAccounts()
  if (notice.kind === 'hours' || notice.kind === 'everything') void hours.value?.refetch()
}
</script>

<template>
  <AppFrame @notice="onNotice">
    <main ref="page" class="relative min-h-0 flex-1 scroll-pt-4 scroll-quiet overflow-y-auto p-6">
      <div class="mx-auto grid max-w-6xl gap-8 lg:grid-cols-[200px_minmax(0,56rem)]">
        <div class="hidden lg:block">
          <SectionList v-if="page" class="sticky top-0" :sections="sections" :within="page" />
        </div>
        <div class="min-w-0">
          <h1 class="mb-4 font-name text-2xl font-bold">Setup</h1>
          <AboutWorkspace :key="`o${workspaceId}`" :workspace-id="workspaceId" />
          <AccountList :workspace-id="workspaceId" :may-manage="session.may('manage_accounts')" :zone="zone" />
          <RoleTable
            :key="`t${workspaceId}`"
            ref="roles"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_members')" />
          <InvitationList
            v-if="session.may('manage_members')"
            ref="invitations"
            :key="`v${workspaceId}`"
            :workspace-id="workspaceId"
            :zone="zone"
            @joined="roles?.refetch()" />
          <TeamList
            :key="`u${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_members')"
            :may-choose-way="session.may('manage_rules')" />
          <GroupList
            :key="`q${workspaceId}`"
            ref="groups"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_members')"
            @changed="roles?.refetch()" />
          <AlertDefaults v-if="session.may('manage_members')" :key="`z${workspaceId}`" :workspace-id="workspaceId" />
          <DeskList
            :key="`d${workspaceId}`"
            :workspace-id="workspaceId"
            :zone="zone"
            :may-manage="session.may('manage_accounts')" />
          <HoursForm
            ref="hours"
            :key="`h${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_rules')" />
          <TagList
            ref="tags"
            :key="`j${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_tags')" />
          <SavedReplyList
            :key="`s${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_replies')"
            :zone="zone" />
          <LibraryList
            :key="`f${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_replies')" />
          <LinkList
            :key="`k${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_replies')"
            :zone="zone" />
          <PolicyList
            :key="`p${workspaceId}`"
            ref="policies"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_rules')" />
          <DomainList :key="`m${workspaceId}`" :workspace-id="workspaceId" :may-manage="session.may('manage_rules')" />
          <ListeningList
            :key="`l${workspaceId}`"
            :workspace-id="workspaceId"
            :may-manage="session.may('manage_tags')" />
          <ReadingAccuracy :key="`r${workspaceId}`" :workspace-id="workspaceId" />
          <ProgramList
            v-if="session.may('manage_accounts')"
            :key="`w${workspaceId}`"
            :workspace-id="workspaceId"
            :zone="zone" />
          <ClockList
            v-if="session.may('manage_accounts')"
            :key="`c${workspaceId}`"
            :workspace-id="workspaceId"
            :zone="zone" />
          <SecondNeeds v-if="session.may('manage_members')" :workspace-id="session.workspaceId" />
          <SecurityLog
            v-if="session.may('manage_members')"
            :key="`g${workspaceId}`"
            :workspace-id="workspaceId"
            :zone="zone" />
          <ImportConversations
            v-if="session.may('manage_accounts')"
            :key="`i${workspaceId}`"
            :workspace-id="workspaceId" />
          <AsideList v-if="session.may('manage_accounts')" :key="workspaceId" :workspace-id="workspaceId" />
        </div>
      </div>
    </main>
  </AppFrame>
</template>
