-- Reports that a member keeps under a name: what they are about, as their address says it.
create table kept_report (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  name text not null check (length(name) between 1 and 60),
  shared boolean not null,
  query text not null check (length(query) <= 1000),
  kept_at timestamptz not null
);
create unique index kept_report_by_name on kept_report (workspace_id, member_id, lower(name));
alter table kept_report enable row level security;
alter table kept_report force row level security;
create policy in_workspace on kept_report using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on kept_report to sorta_app;
