-- The record of changes: every administrative change of a workspace, written by the tables themselves, so that no way to change them goes by it. Nobody
-- can write or change an entry but by changing what it is about: the application's roles may only read. Each entry's hash is made of its words and
-- the hash before it (SHA-256), so that one that was changed or taken away shows.
create table record (
  workspace_id bigint not null references workspace,
  -- from 1, without gaps
  n bigint not null,
  -- JSON: n, at, member, from, what, did, key, name, before, after
  said text not null,
  hash bytea not null,
  what text not null generated always as ((said::jsonb) ->> 'what') stored,
  member_id bigint generated always as (((said::jsonb) ->> 'member')::bigint) stored,
  -- as it is said: universal time, by which texts are in order
  at text not null generated always as ((said::jsonb) ->> 'at') stored,
  primary key (workspace_id, n)
);
alter table record enable row level security;
alter table record force row level security;
create policy in_workspace on record for select using (workspace_id = (select chosen_workspace()));
create policy by_owner on record to current_user using (true) with check (true);
grant select on record to sorta_app;

-- Arguments: the columns that count, those that are secret (of which only that they changed is said), and those that say which row it is.
create function write_record() returns trigger
language plpgsql security definer set search_path = pg_catalog, public, pg_temp as $$
declare
  was jsonb := case when tg_op <> 'INSERT' then to_jsonb(old) end;
  becomes jsonb := case when tg_op <> 'DELETE' then to_jsonb(new) end;
  whole jsonb := coalesce(becomes, was);
  place bigint := (case when tg_table_name = 'workspace' then whole ->> 'id' else whole ->> 'workspace_id' end)::bigint;
  before jsonb := '{}';
  after jsonb := '{}';
  k text;
  last record;
  told text;
begin
  -- The first Owner's link belongs to no workspace yet.
  if place is null then
    return null;
  end if;
  foreach k in array string_to_array(tg_argv[0], ',') loop
    if was -> k is distinct from becomes -> k then
      if was is not null then before := before || jsonb_build_object(k, was -> k); end if;
      if becomes is not null then after := after || jsonb_build_object(k, becomes -> k); end if;
    end if;
  end loop;
  foreach k in array string_to_array(tg_argv[1], ',') loop
    if was is not null and becomes is not null and was -> k is distinct from becomes -> k then
      before := before || jsonb_build_object(k, 'not shown');
      after := after || jsonb_build_object(k, 'another, not shown');
    end if;
  end loop;
  if before = '{}' and after = '{}' then
    return null;
  end if;
  perform pg_advisory_xact_lock(hashtext('record'), place::integer);
  select r.n, r.hash into last from public.record r where r.workspace_id = place order by r.n desc limit 1;
  told := jsonb_build_object(
    'n', coalesce(last.n, 0) + 1,
    'at', to_char(clock_timestamp() at time zone 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"'),
    'member', nullif(current_setting('app.actor', true), '')::bigint,
    'from', nullif(current_setting('app.came_from', true), ''),
    'what', tg_table_name,
    'did', lower(tg_op),
    'key', (select coalesce(jsonb_object_agg(c, whole -> c), '{}') from unnest(string_to_array(tg_argv[2], ',')) c),
    'name', coalesce(whole ->> 'name', whole -> 'body' ->> 'name', whole ->> 'words'),
    'before', before, 'after', after)::text;
  insert into public.record (workspace_id, n, said, hash)
  values (place, coalesce(last.n, 0) + 1, told, sha256(coalesce(last.hash, '') || convert_to(told, 'UTF8')));
  return null;
end $$;
revoke all on function write_record from public;

create trigger recorded after insert or update or delete on rule for each row
  execute function write_record('body,switched_on,position,off_reason,removed_at', '', 'id');
create trigger recorded after insert or update or delete on policy for each row execute function write_record('body,switched_on,removed_at', '', 'id');
create trigger recorded after insert or update or delete on role for each row execute function write_record('name,permissions', '', 'key');
create trigger recorded after insert or update or delete on membership for each row execute function write_record('member_id,role', '', 'member_id');
create trigger recorded after insert or update or delete on saved_reply for each row execute function write_record('body,archived_at', '', 'id');
create trigger recorded after insert or update or delete on workspace_hours for each row execute function write_record('week,special,targets', '', '');
create trigger recorded after insert or update or delete on support_desk for each row
  execute function write_record('name,api_url,follow_hours,removed_at', 'token,hook_secret', 'id');
create trigger recorded after insert or update or delete on account for each row
  execute function write_record('network,name,handle,external_id,api_url', 'token,hook_secret', 'id');
create trigger recorded after insert or update or delete on listening for each row execute function write_record('words,account_id', '', 'id');
create trigger recorded after insert or update or delete on team for each row execute function write_record('name,way', '', 'id');
create trigger recorded after insert or update or delete on team_member for each row
  execute function write_record('team_id,member_id', '', 'team_id,member_id');
create trigger recorded after insert or update or delete on account_group for each row execute function write_record('name,accounts', '', 'id');
create trigger recorded after insert or update or delete on kept_link for each row execute function write_record('name,target', '', 'id');
create trigger recorded after insert or update or delete on shared_report for each row
  execute function write_record('name,ask,parts,expires_at,revoked_at', 'token', 'id');
create trigger recorded after insert or update or delete on invitation for each row
  execute function write_record('email,role,expires_at,taken_at,cancelled_at', '', 'id');
create trigger recorded after insert or update or delete on workspace for each row
  execute function write_record('name,time_zone,held_at,held_reason,mail_domains,false_alarms,ask_next_after,needs_second', '', 'id');
