-- Account groups: who is limited sees the accounts of their groups, and nothing that came or went by others. The database holds to it: the pass
-- that a connection shows says for whom it asks, where that is somebody who is limited.
alter table membership add limited boolean not null default false, add check (not (limited and role = 'owner'));

create table account_group_member (
  workspace_id bigint not null references workspace,
  group_id bigint not null references account_group on delete cascade,
  member_id bigint not null references member,
  primary key (group_id, member_id)
);
create index account_group_member_of on account_group_member (workspace_id, member_id);
alter table account_group_member enable row level security;
alter table account_group_member force row level security;
create policy in_workspace on account_group_member using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on account_group_member to sorta_app;
create unique index account_group_name on account_group (workspace_id, lower(name));

-- Groups of those who are invited, and whether they will be limited to them.
alter table invitation add limited boolean not null default false, add groups bigint[] not null default '{}', add teams bigint[] not null default '{}';

create trigger recorded after insert or update or delete on account_group_member for each row
  execute function write_record('group_id,member_id', '', 'group_id,member_id');
drop trigger recorded on membership;
create trigger recorded after insert or update or delete on membership for each row
  execute function write_record('member_id,role,limited', '', 'member_id');
drop trigger recorded on invitation;
create trigger recorded after insert or update or delete on invitation for each row
  execute function write_record('email,role,limited,groups,teams,expires_at,taken_at,cancelled_at', '', 'id');

-- As in 0029; a pass for somebody who is limited is signed with who that is.
create or replace function chosen_workspace() returns bigint
language plpgsql stable security definer set search_path = pg_catalog, public, pg_temp as $$
declare
  chosen bigint := nullif(current_setting('app.workspace_id', true), '')::bigint;
  seer bigint := nullif(current_setting('app.seer', true), '')::bigint;
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
  if encode(sha256(key.outer_pad || sha256(key.inner_pad || int8send(chosen) || int8send(hour) || coalesce(int8send(seer), ''))), 'hex') = pass[3] then
    return chosen;
  end if;
  return null;
end $$;

-- The accounts that the connection sees; null is all of them. It looks at no pass: whatever asks for it asks for `chosen_workspace` too, and a
-- pass is signed with the seer.
create function seen_accounts() returns bigint[]
language plpgsql stable security definer set search_path = pg_catalog, public, pg_temp as $$
declare
  seer bigint := nullif(current_setting('app.seer', true), '')::bigint;
begin
  if seer is null then
    return null;
  end if;
  return coalesce((select array_agg(distinct a) from account_group_member m join account_group g on g.id = m.group_id cross join lateral unnest(g.accounts) a
    where m.workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint and g.workspace_id = m.workspace_id and m.member_id = seer), '{}');
end $$;
-- Whether a member sees an account, also another than who asks; where there is none, whether they see all.
create function is_seen_by(p_workspace bigint, p_member bigint, p_account bigint) returns boolean
language sql stable security definer set search_path = pg_catalog, public, pg_temp as $$
  select not m.limited or exists (select from account_group_member x join account_group g on g.id = x.group_id and g.workspace_id = x.workspace_id
    where x.workspace_id = p_workspace and x.member_id = p_member and p_account = any (g.accounts))
  from membership m where m.workspace_id = p_workspace and m.member_id = p_member and p_workspace = chosen_workspace()
$$;
-- The members of the groups that hold an account, whoever asks; and whether people have said more than who asks sees.
create function list_group_members(p_workspace bigint, p_account bigint) returns table (group_id bigint, member_id bigint)
language sql stable security definer set search_path = pg_catalog, public, pg_temp as $$
  select x.group_id, x.member_id from account_group_member x join account_group g on g.id = x.group_id and g.workspace_id = x.workspace_id
  where x.workspace_id = p_workspace and p_account = any (g.accounts) and p_workspace = chosen_workspace()
$$;
create function is_partly_seen(p_workspace bigint, p_people bigint[]) returns boolean
language sql stable security definer set search_path = pg_catalog, public, pg_temp as $$
  select exists (select from conversation c where c.workspace_id = p_workspace and c.person_id = any (p_people) and p_workspace = chosen_workspace()
    and c.account_id <> all (seen_accounts()))
$$;
-- Under which dimension the kept counts of moves add up to what who asks sees.
create function kept_by() returns text language sql stable as $$
  select case when seen_accounts() is null then 'all' else 'account' end
$$;
grant create on schema public to sorta_search;
grant select on account_group, account_group_member, membership to sorta_search;
alter function seen_accounts owner to sorta_search;
alter function is_seen_by owner to sorta_search;
alter function list_group_members owner to sorta_search;
alter function is_partly_seen owner to sorta_search;
revoke all on function seen_accounts, is_seen_by, list_group_members, is_partly_seen from public;
grant execute on function seen_accounts, is_seen_by, list_group_members, is_partly_seen to sorta_app, sorta_search;

-- What each table says of accounts, beside the workspace: {table, condition}. A table of conversations' things is seen as the conversation is.
do $$
declare
  one record;
  conversation constant text := 'exists (select from conversation c where c.id = %1$I.conversation_id)';
  message constant text := 'exists (select from message m where m.id = %1$I.message_id)';
  person constant text := 'exists (select from person p where p.id = %1$I.person_id)';
  account constant text := '%1$I.account_id = any ((select seen_accounts())::bigint[])';
  said text;
begin
  for one in select * from (values
    ('account', '%1$I.id = any ((select seen_accounts())::bigint[])'),
    ('conversation', account), ('message', account), ('post', account), ('spell', account), ('reaction', account), ('aside', account),
    ('early_change', account), ('outbox', account), ('listening', account), ('tally_change', account),
    ('link', '(%1$I.account_id is null or ' || account || ')'),
    ('tally', '(%1$I.dimension = ''account'' and %1$I.value = any ((select seen_accounts())::text[]))'),
    ('account_group', 'exists (select from account_group_member m where m.group_id = %1$I.id
      and m.member_id = nullif(current_setting(''app.seer'', true), '''')::bigint)'),
    -- for all accounts, or for one that is seen, or for a group of theirs
    ('saved_reply', '((coalesce(%1$I.body -> ''accounts'', ''[]'') = ''[]'' and coalesce(%1$I.body -> ''groups'', ''[]'') = ''[]'')
      or exists (select from jsonb_array_elements_text(%1$I.body -> ''accounts'') a where a::bigint = any ((select seen_accounts())::bigint[]))
      or exists (select from jsonb_array_elements_text(%1$I.body -> ''groups'') b join account_group g on g.id = b::bigint))'),
    ('trail', conversation), ('draft', conversation),
    -- one's own, of which every row of a list asks
    ('read_mark', '%1$I.member_id = nullif(current_setting(''app.seer'', true), '''')::bigint'),
    ('rule_hit', conversation), ('auto_answer', conversation), ('proposal', conversation),
    ('support_case', conversation), ('scheduled_reply', conversation), ('attachment', conversation), ('advice', conversation), ('filing', conversation),
    ('alert', '(%1$I.conversation_id is null or ' || conversation || ')'),
    ('presence', '(%1$I.conversation_id is null or ' || conversation || ')'),
    ('correction', message), ('translation', message), ('reading_check', message), ('saved_reply_use', message),
    ('case_message', 'exists (select from support_case c where c.id = %1$I.case_id)'),
    ('case_remark', 'exists (select from support_case c where c.id = %1$I.case_id)'),
    ('advice_answer', 'exists (select from advice a where a.id = %1$I.advice_id)'),
    ('click', 'exists (select from link l where l.id = %1$I.link_id)'),
    ('draw', 'exists (select from post p where p.id = %1$I.post_id)'),
    ('draw_notice', 'exists (select from draw d where d.id = %1$I.draw_id)'),
    ('person', 'exists (select from conversation c where c.person_id = %1$I.id)'),
    -- what somebody is called on a network on which they never came by an account that is seen is not shown
    ('identity', 'exists (select from conversation c where c.person_id = %1$I.person_id and c.network = %1$I.network)'),
    ('person_tag', person), ('person_fact', person), ('follow_up', person), ('person_mark', person),
    ('person_join', 'exists (select from person p where p.id = %1$I.kept_id)'),
    -- what is told of a workspace as a whole
    ('spell_day', 'false'), ('unusual_hour', 'false'), ('what_if', 'false'), ('record', 'false'), ('rule_trial', 'false')
  ) t(name, condition) loop
    said := format('workspace_id = (select chosen_workspace()) and ((select seen_accounts()) is null or ' || one.condition || ')', one.name);
    if one.name = 'record' then
      execute format('alter policy in_workspace on %I using (%s)', one.name, said);
    else
      execute format('alter policy in_workspace on %I using (%s) with check (%s)', one.name, said, said);
    end if;
  end loop;
end $$;

-- What follows from a change is done whole, also where who changes it sees a part.
grant select, delete on spell_day to sorta_search;
alter function forget_spell_day() security definer set search_path = pg_catalog, public, pg_temp;
alter function forget_spell_day() owner to sorta_search;
grant select, insert, delete on filing to sorta_search;
grant select on conversation to sorta_search;
alter function file_person() security definer set search_path = pg_catalog, public, pg_temp;
alter function file_person() owner to sorta_search;

-- As in 0019; of what who asks sees.
create or replace function search_conversations(p_workspace bigint, p_query text, p_limit integer)
returns setof bigint language sql stable security definer set search_path = public, pg_temp as $$
  select conversation_id from (
    select m.conversation_id, max(m.id) as latest from message m
    where m.workspace_id + 0 = p_workspace
      and p_workspace = chosen_workspace()
      and ((select seen_accounts()) is null or m.account_id = any ((select seen_accounts())::bigint[]))
      and m.tsv @@ to_tsquery('simple', p_query)
    group by m.conversation_id) found order by latest desc limit p_limit
$$;
create or replace function search_messages(p_workspace bigint, p_query text, p_limit integer)
returns table (message_id bigint, conversation_id bigint, body text, sent_at timestamptz)
language plpgsql stable security definer set search_path = public, pg_temp as $$
declare
  seen bigint[] := seen_accounts();
begin
  if p_workspace is distinct from chosen_workspace() then
    return;
  end if;
  if is_common(p_query) then
    return query execute
      'select m.id, m.conversation_id, m.body, m.sent_at from message m
       where m.workspace_id = $1 and m.tsv @@ to_tsquery(''simple'', $2) and ($4 is null or m.account_id = any ($4))
       order by m.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit, seen;
  else
    return query execute
      'with found as materialized (
         select m.id, m.conversation_id, m.body, m.sent_at, m.arrived_at from message m
         where m.workspace_id + 0 = $1 and m.tsv @@ to_tsquery(''simple'', $2) and ($4 is null or m.account_id = any ($4)))
       select f.id, f.conversation_id, f.body, f.sent_at from found f order by f.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit, seen;
  end if;
end $$;
-- A page of what is found, and not the thousand that is assumed: each is looked up, whatever is seen.
alter function search_messages(bigint, text, integer) rows 10;
revoke create on schema public from sorta_search;
