-- Programs: tokens by which they ask, and where they are told what happens.
create table api_token (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null check (length(name) between 1 and 60),
  token_hash bytea not null unique,
  -- its last four characters, to know it by
  ending text not null,
  permissions text[] not null,
  -- in whose name it acts, and never with more than they may
  made_by bigint not null references member,
  made_at timestamptz not null,
  expires_at timestamptz not null,
  used_at timestamptz,
  revoked_at timestamptz
);
create index api_token_listed on api_token (workspace_id, id);

create table web_hook (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null check (length(name) between 1 and 60),
  url text not null,
  -- sealed
  secret text not null,
  secret_before text,
  secret_until timestamptz,
  -- core.programs.TOLD: what is told of, and the events of trails (or 'moved') that are that
  kinds text[] not null,
  events text[] not null,
  made_by bigint not null references member,
  made_at timestamptz not null,
  failing_since timestamptz,
  off_reason text,
  removed_at timestamptz
);
create index web_hook_listed on web_hook (workspace_id, id) where removed_at is null;

create table hook_event (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  hook_id bigint not null references web_hook,
  conversation_id bigint not null,
  -- what it is known by, however often it is sent
  key uuid not null default gen_random_uuid(),
  event text not null,
  data jsonb not null,
  made_at timestamptz not null default now(),
  state text not null default 'waiting' check (state in ('waiting', 'sent', 'failed')),
  attempts integer not null default 0,
  next_at timestamptz not null default now(),
  ended_at timestamptz,
  problem text
);
create index hook_event_due on hook_event (workspace_id, next_at) where state = 'waiting';
create index hook_event_listed on hook_event (hook_id, id desc);
create index hook_event_old on hook_event (workspace_id, made_at);

do $$
declare t text;
begin
  foreach t in array array['api_token', 'web_hook', 'hook_event']
  loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('grant select, insert, update, delete on %I to sorta_app', t);
  end loop;
end $$;
create policy in_workspace on api_token using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
create policy in_workspace on web_hook using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()));
-- They are told of every account.
create policy in_workspace on hook_event using (workspace_id = (select chosen_workspace()) and (select seen_accounts()) is null)
  with check (workspace_id = (select chosen_workspace()) and (select seen_accounts()) is null);

-- Written by the trail and by the conversation's move, whoever acts and whatever they see.
create function tell_programs() returns trigger
language plpgsql security definer set search_path = pg_catalog, public, pg_temp as $$
begin
  insert into hook_event (workspace_id, hook_id, conversation_id, event, data)
  select a.workspace_id, h.id, a.conversation_id, a.kind,
    jsonb_build_object('seq', a.seq, 'at', a.at, 'member', a.member_id) || a.data
  from added a join web_hook h on h.workspace_id = a.workspace_id
  where h.removed_at is null and h.off_reason is null and a.kind = any (h.events);
  return null;
end $$;
create function tell_programs_move() returns trigger
language plpgsql security definer set search_path = pg_catalog, public, pg_temp as $$
begin
  insert into hook_event (workspace_id, hook_id, conversation_id, event, data)
  select a.workspace_id, h.id, a.id, 'moved', jsonb_build_object('seq', a.seq, 'from', b.move, 'to', a.move)
  from after a join before b on b.id = a.id and b.move <> a.move join web_hook h on h.workspace_id = a.workspace_id
  where h.removed_at is null and h.off_reason is null and 'moved' = any (h.events);
  return null;
end $$;
grant create on schema public to sorta_search;
grant select on web_hook to sorta_search;
grant insert on hook_event to sorta_search;
alter function tell_programs() owner to sorta_search;
alter function tell_programs_move() owner to sorta_search;
revoke create on schema public from sorta_search;
create trigger tell_programs after insert on trail referencing new table as added for each statement execute function tell_programs();
create trigger tell_programs_move after update on conversation referencing old table as before new table as after
  for each statement execute function tell_programs_move();

create trigger recorded after insert or update or delete on api_token for each row
  execute function write_record('name,permissions,expires_at,revoked_at', '', 'id');
create trigger recorded after insert or update or delete on web_hook for each row
  execute function write_record('name,url,kinds,off_reason,removed_at', 'secret', 'id');
