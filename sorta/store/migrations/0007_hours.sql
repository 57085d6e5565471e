-- When a workspace works and how soon it promises answers; a workspace without a row counts every hour.
create table workspace_hours (
  workspace_id bigint primary key references workspace,
  week jsonb not null,
  special jsonb not null,
  targets jsonb not null,
  member_id bigint references member,
  changed_at timestamptz not null,
  -- {done, total} while dues are being counted anew
  progress jsonb
);
alter table workspace_hours enable row level security;
alter table workspace_hours force row level security;
create policy in_workspace on workspace_hours
  using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
grant select, insert, update, delete on workspace_hours to sorta_app;
