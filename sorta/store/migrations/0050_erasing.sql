-- A person erased at their wish (decision 0049): what was said and known of them goes, rows and figures stay.
alter table person add erased_at timestamptz;
alter table conversation add erased_at timestamptz;
-- Whether something by this account has been erased: only then is each thing that comes compared with what must not come back.
alter table account add has_erased boolean not null default false;

create table erasure (
  workspace_id bigint not null references workspace,
  id bigint generated always as identity primary key,
  person_id bigint not null references person,
  -- how much went, by what it was
  counts jsonb not null,
  made_by bigint not null references member,
  made_at timestamptz not null
);
create index erasure_listed on erasure (workspace_id, id);
alter table erasure enable row level security;
alter table erasure force row level security;
create policy in_workspace on erasure using (workspace_id = (select chosen_workspace()) and (select seen_accounts()) is null)
  with check (workspace_id = (select chosen_workspace()) and (select seen_accounts()) is null);
-- That somebody was erased is never taken back.
grant select, insert on erasure to sorta_app;
grant usage on all sequences in schema public to sorta_app;
create trigger recorded after insert or update or delete on erasure for each row execute function write_record('person_id,counts', '', 'id');

-- What a network's name for something becomes, so that it is known when it is delivered again and says nothing otherwise.
create function make_erased(p_name text) returns text language sql immutable as $$
  select 'erased:' || encode(sha256(convert_to(p_name, 'UTF8')), 'hex')
$$;

-- Trails are only ever added to, but for this: without a pattern the words go from trails of conversations that were erased; with one, what
-- matches it goes from the words of others. `p_keys` are the names under which trails hold words.
create function erase_in_trail(p_workspace bigint, p_conversations bigint[], p_keys text[], p_pattern text) returns void
language sql security definer set search_path = pg_catalog, public, pg_temp as $$
  update trail t set data = t.data
    || coalesce((select jsonb_object_agg(k, case when p_pattern is null then 'erased' else regexp_replace(t.data ->> k, p_pattern, 'erased', 'gi') end)
      from unnest(p_keys) k where jsonb_typeof(t.data -> k) = 'string'), '{}')
    || case when p_pattern is null and t.data -> 'rule' ? 'evidence'
      then jsonb_build_object('rule', t.data -> 'rule' || '{"evidence": []}') else '{}' end
  where t.workspace_id = p_workspace and p_workspace = chosen_workspace() and t.conversation_id = any (p_conversations)
    and (p_pattern is not null or exists (select from conversation c where c.id = t.conversation_id and c.erased_at is not null))
$$;
-- The security log named whoever's things were exported.
create function erase_in_log(p_workspace bigint, p_people bigint[]) returns void
language sql security definer set search_path = pg_catalog, public, pg_temp as $$
  update security_event e set about = e.about || '{"what": "everything about one person"}'
  where e.workspace_id = p_workspace and p_workspace = chosen_workspace() and (e.about ->> 'person')::bigint = any (p_people)
    and exists (select from person p where p.id = (e.about ->> 'person')::bigint and p.workspace_id = p_workspace and p.erased_at is not null)
$$;
grant create on schema public to sorta_search;
grant select, update (data) on trail to sorta_search;
grant select, update (about) on security_event to sorta_search;
grant select on conversation, person to sorta_search;
alter function erase_in_trail owner to sorta_search;
alter function erase_in_log owner to sorta_search;
revoke create on schema public from sorta_search;
revoke all on function erase_in_trail, erase_in_log from public;
grant execute on function erase_in_trail, erase_in_log to sorta_app;
