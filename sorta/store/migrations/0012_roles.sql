-- Roles are named sets of permissions, a workspace's own; the starting roles stand in each from the beginning.

create table role (
  workspace_id bigint not null references workspace,
  key text not null,
  name text not null,
  permissions text[] not null,
  primary key (workspace_id, key)
);
create unique index role_name on role (workspace_id, lower(name));

insert into role (workspace_id, key, name, permissions)
select w.id, s.key, s.name, s.permissions from workspace w cross join (values
  ('owner', 'Owner', array['see', 'sort', 'reply_publicly', 'reply_privately', 'reply_without_approval', 'approve', 'moderate',
    'manage_replies', 'manage_tags', 'export', 'manage_accounts', 'manage_rules', 'manage_members', 'hold_outgoing', 'draw_prizes']),
  ('lead', 'Lead', array['see', 'sort', 'reply_publicly', 'reply_privately', 'reply_without_approval', 'approve', 'moderate',
    'manage_replies', 'manage_tags', 'export', 'manage_rules', 'manage_members', 'hold_outgoing', 'draw_prizes']),
  ('responder', 'Responder', array['see', 'sort', 'reply_publicly', 'reply_privately', 'reply_without_approval', 'moderate', 'manage_tags']),
  ('trainee', 'Trainee', array['see', 'sort', 'reply_publicly', 'reply_privately']),
  ('observer', 'Observer', array['see'])) as s (key, name, permissions);

alter table membership drop constraint membership_role_check;
alter table membership add foreign key (workspace_id, role) references role;

alter table role enable row level security;
alter table role force row level security;
create policy in_workspace on role using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
-- What a member is, wherever they work: found by the member's id before any workspace is chosen.
create policy own_roles on role for select using (exists (select 1 from membership m
  where m.workspace_id = role.workspace_id and m.role = role.key
    and m.member_id = nullif(current_setting('app.member_id', true), '')::bigint));
grant select, insert, update, delete on role to sorta_app;
