-- Support desks, the cases they hold for us, what has been passed on, and what they said.

create table support_desk (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null,
  api_url text not null,
  token text not null,
  hook_secret text not null,
  -- further messages within so many hours of the last one passed on join the same case
  follow_hours integer not null,
  removed_at timestamptz
);

create table support_case (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  desk_id bigint not null references support_desk,
  -- checked at the end: a rule hands over a conversation that is written with the same transaction
  conversation_id bigint not null references conversation deferrable initially deferred,
  key uuid not null unique,
  external_id text,
  reference text,
  url text,
  state text not null check (state in ('opening', 'open', 'waiting', 'solved', 'returned', 'refused')),
  state_at timestamptz not null,
  note text,
  opened_by bigint references member,
  rule_name text,
  opened_at timestamptz not null,
  last_passed_at timestamptz not null,
  -- passing on: how often it failed since it last worked, when it is tried again, what was wrong
  tries integer not null default 0,
  next_at timestamptz,
  problem text,
  unique (desk_id, external_id)
);
create index support_case_conversation on support_case (conversation_id, id);
create index support_case_list on support_case (workspace_id, state, state_at desc, id desc);
create index support_case_due on support_case (workspace_id, next_at) where next_at is not null;

create table case_message (
  case_id bigint not null references support_case on delete cascade,
  message_id bigint not null references message deferrable initially deferred,
  workspace_id bigint not null references workspace,
  key uuid not null,
  passed_at timestamptz,
  primary key (case_id, message_id)
);

create table case_remark (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  case_id bigint not null references support_case,
  external_id text not null,
  by_name text not null,
  text text not null,
  at timestamptz not null,
  unique (case_id, external_id)
);

alter table conversation
  -- until when what they write joins the case it was handed over in
  add case_until timestamptz;

do $$
declare t text;
begin
  foreach t in array array['support_desk', 'support_case', 'case_message', 'case_remark']
  loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy in_workspace on %I using (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint) with check (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint)', t);
    execute format('grant select, insert, update, delete on %I to sorta_app', t);
  end loop;
end $$;
grant usage on all sequences in schema public to sorta_app;
