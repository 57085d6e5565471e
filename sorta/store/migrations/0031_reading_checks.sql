-- A small random sample of messages each week, that a member looked at: how right the reading is, is counted on these alone.

create table reading_check (
  workspace_id bigint not null references workspace,
  message_id bigint not null references message,
  -- the Monday of the week whose sample it is in
  week date not null,
  -- what it was read as at that time, and what a member says it is
  was text[] not null,
  labels text[] not null,
  member_id bigint not null references member,
  at timestamptz not null,
  primary key (workspace_id, message_id)
);
create index reading_check_of on reading_check (workspace_id, at desc);
alter table reading_check enable row level security;
alter table reading_check force row level security;
create policy in_workspace on reading_check using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert on reading_check to sorta_app;
