-- Days that are over, played again with something changed, in the background.
create table what_if (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  -- what is changed, and over how many days
  asked jsonb not null,
  made_at timestamptz not null,
  state text not null default 'waiting' check (state in ('waiting', 'running', 'done', 'failed')),
  done integer not null default 0,
  total integer not null default 0,
  -- when the process that plays was last heard of: one that fell silent is taken up again
  heard_at timestamptz not null,
  result jsonb,
  problem text,
  check ((state = 'done') = (result is not null) and (state = 'failed') = (problem is not null))
);
create index what_if_listed on what_if (workspace_id, id);
alter table what_if enable row level security;
alter table what_if force row level security;
create policy in_workspace on what_if using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on what_if to sorta_app;
grant usage on all sequences in schema public to sorta_app;
