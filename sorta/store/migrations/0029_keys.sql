-- Whose workspace a connection sees. The worker's role chooses one; every other shows a pass for it, signed with a key that is in
-- this table and nowhere else in the database: whoever gets a statement of their own past the web process still sees the one
-- workspace of the request. HMAC-SHA256 (RFC 2104) with the padded keys made beforehand.
create table pass_key (
  name text primary key,
  inner_pad bytea not null check (length(inner_pad) = 64),
  outer_pad bytea not null check (length(outer_pad) = 64)
);

create function chosen_workspace() returns bigint
language plpgsql stable security definer set search_path = pg_catalog, public, pg_temp as $$
declare
  chosen bigint := nullif(current_setting('app.workspace_id', true), '')::bigint;
  -- key's name, hour of the epoch, signature
  pass text[];
  hour bigint;
  key pass_key;
begin
  if chosen is null or pg_has_role(session_user, 'sorta_worker', 'member') then
    return chosen;
  end if;
  pass := string_to_array(current_setting('app.pass', true), '.');
  hour := pass[2];
  -- of this hour, or of the ones beside it: a pass that was overheard is worth nothing tomorrow
  if abs(hour - extract(epoch from now())::bigint / 3600) > 1 then
    return null;
  end if;
  select * into key from pass_key where name = pass[1];
  if encode(sha256(key.outer_pad || sha256(key.inner_pad || int8send(chosen) || int8send(hour))), 'hex') = pass[3] then
    return chosen;
  end if;
  return null;
end $$;
revoke all on function chosen_workspace from public;
grant execute on function chosen_workspace to sorta_app, sorta_search;

-- One name for it in every policy and every function that runs past them.
do $$
declare
  one record;
  written constant text := 'nullif(current_setting(''app.workspace_id'', true), '''')::bigint';
begin
  for one in select tablename, policyname, qual, with_check from pg_policies
      where schemaname = 'public' and qual like '%app.workspace_id%' loop
    execute format('alter policy %I on %I using (workspace_id = (select chosen_workspace())) with check (workspace_id = (select chosen_workspace()))',
      one.policyname, one.tablename);
  end loop;
  for one in select oid from pg_proc where pronamespace = 'public'::regnamespace and proname <> 'chosen_workspace'
      and prosrc like '%app.workspace_id%' loop
    execute replace(pg_get_functiondef(one.oid), written, 'chosen_workspace()');
  end loop;
end $$;

-- What Sorta shows others, and what they sign with, is sealed (the words in front tell a sealed one from what is still to be sealed);
-- while a signing secret is being changed the one before is taken too.
alter table account add column hook_secret_before text, add column hook_secret_until timestamptz;
alter table support_desk add column hook_secret_before text, add column hook_secret_until timestamptz;

-- The word that a page says to write is made from the session's token, which is not kept.
alter table session drop column csrf;

-- Counted and never read.
alter table account drop column silent_tries;

-- Who came in, was refused, changed what others may or what is shown outside: kept beside the log.
create table security_event (
  id bigint generated always as identity primary key,
  at timestamptz not null default now(),
  -- null for what belongs to no workspace
  workspace_id bigint references workspace,
  member_id bigint not null references member,
  kind text not null,
  about jsonb not null default '{}'
);
create index security_event_at on security_event (at);
create index security_event_workspace on security_event (workspace_id, id);
create index security_event_member on security_event (member_id);
alter table security_event enable row level security;
alter table security_event force row level security;
-- A workspace sees its own, and how its members sign in, which belongs to none.
create policy in_workspace on security_event for select using (workspace_id = (select chosen_workspace())
  or (workspace_id is null and exists (select from membership m where m.member_id = security_event.member_id
    and m.workspace_id = (select chosen_workspace()))));
-- Written by anybody who acts, also before a workspace is chosen; changed by nobody, and swept by the clock alone.
create policy written on security_event for insert with check (workspace_id is null or workspace_id = (select chosen_workspace()));
create policy looked_over on security_event for select using (pg_has_role(session_user, 'sorta_worker', 'member'));
create policy swept on security_event for delete using (pg_has_role(session_user, 'sorta_worker', 'member'));
grant select, insert, delete on security_event to sorta_app;
