-- Rules with their versions and what they did; trials on the past; alerts; who is there to work; holding what goes out.

alter table workspace
  -- counts every change of the rules, so that a process knows when the ones it keeps are old
  add rules_version bigint not null default 0,
  add held_reason text,
  add held_by bigint references member,
  add held_at timestamptz;

create table rule (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  position integer not null,
  switched_on boolean not null,
  version integer not null,
  body jsonb not null,
  owner_id bigint not null references member,
  changed_by bigint not null references member,
  changed_at timestamptz not null,
  -- why it was switched off by itself
  off_reason text,
  removed_at timestamptz
);
create index rule_order on rule (workspace_id, position, id) where removed_at is null;

create table rule_version (
  rule_id bigint not null references rule,
  version integer not null,
  workspace_id bigint not null references workspace,
  body jsonb not null,
  switched_on boolean not null,
  member_id bigint references member,
  at timestamptz not null,
  primary key (rule_id, version)
);

-- What a rule did to a message: `effects` and `lost` by name, `evidence` as it was then.
create table rule_hit (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  rule_id bigint not null references rule,
  version integer not null,
  conversation_id bigint not null,
  message_id bigint not null,
  at timestamptz not null,
  evidence jsonb not null,
  effects text[] not null,
  lost jsonb not null,
  to_review boolean not null generated always as (effects && array['hide', 'reply', 'settle']) stored,
  -- for what is hidden, answered or settled: whether a member has looked, and what they said
  reviewed_by bigint references member,
  reviewed_at timestamptz,
  verdict text check (verdict in ('kept', 'shown'))
);
create index rule_hit_of on rule_hit (rule_id, at);
create index rule_hit_message on rule_hit (message_id);
create index rule_hit_review on rule_hit (workspace_id, at)
  where reviewed_at is null and to_review;

create table auto_answer (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  rule_id bigint not null references rule,
  conversation_id bigint not null,
  person_id bigint not null,
  message_id bigint not null,
  at timestamptz not null
);
create index auto_answer_conversation on auto_answer (conversation_id, rule_id);
create index auto_answer_person on auto_answer (person_id, at);
create index auto_answer_rule on auto_answer (rule_id, at);

create table rule_trial (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  -- the rules as they would be, in order; `rule_id` is the one in question (0 for a new one)
  rules jsonb not null,
  rule_id bigint not null,
  days integer not null,
  made_at timestamptz not null,
  state text not null check (state in ('waiting', 'running', 'done', 'cancelled', 'failed')),
  done integer not null default 0,
  total integer not null default 0,
  result jsonb
);

-- What a member has set by hand: rules leave it alone. 'priority', 'assign', or 'tag:7' for a tag taken off.
alter table conversation add by_hand text[] not null default '{}';
alter table conversation no force row level security;
alter table trail no force row level security;
update conversation c set by_hand = found.names
from (
  select t.conversation_id, array_agg(distinct n.name order by n.name) as names
  from trail t cross join lateral (select case t.kind when 'prioritised' then 'priority' when 'assigned' then 'assign'
    when 'untagged' then 'tag:' || (t.data->>'tag') end as name) n
  where t.member_id is not null and n.name is not null and not exists (select from trail u
    where u.conversation_id = t.conversation_id and u.kind = 'undone' and (u.data->>'of')::int = t.seq)
  group by t.conversation_id) found
where c.id = found.conversation_id;
alter table conversation force row level security;
alter table trail force row level security;

alter table message add rule_id bigint references rule;
alter table post add is_ad boolean not null default false;
alter table identity add automatic boolean not null default false;

alter table team add way text not null default 'in_turn' check (way in ('in_turn', 'lightest', 'known'));
create table team_turn (
  team_id bigint not null references team,
  member_id bigint not null references member,
  workspace_id bigint not null references workspace,
  given_at timestamptz not null,
  primary key (team_id, member_id)
);

create table availability (
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  capacity integer not null default 40 check (capacity between 0 and 1000),
  -- ISO 639; empty for any
  languages text[] not null default '{}',
  away_from timestamptz,
  away_until timestamptz,
  away_reason text,
  -- hours of each weekday as people write them, Monday first; null for all of the workspace's hours
  shift jsonb,
  primary key (workspace_id, member_id)
);

create table alert (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  occasion text not null,
  words text not null,
  conversation_id bigint,
  -- the same thing is never told twice
  key text not null,
  at timestamptz not null,
  by_mail boolean not null,
  mailed_at timestamptz,
  problem text,
  read_at timestamptz,
  unique (workspace_id, member_id, key)
);
create index alert_unread on alert (workspace_id, member_id, at) where read_at is null;
create index alert_to_mail on alert (workspace_id, id) where by_mail and mailed_at is null;

create table alert_choice (
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  occasion text not null,
  in_app boolean not null,
  by_mail boolean not null,
  -- for 'due_soon': how many minutes before
  minutes integer not null default 15 check (minutes between 1 and 1440),
  primary key (workspace_id, member_id, occasion)
);

-- Answers and settlings of members, for the pace.
create index trail_finished on trail (workspace_id, at) where kind in ('replied', 'settled') and member_id is not null;

-- As in 0003, with whether a program wrote it and whether the post is an ad.
create or replace function resolve_messages(p_workspace bigint, p_account bigint, p_network text,
                                 p_now timestamptz, p_items jsonb)
returns table (n integer, known boolean, message_id bigint, identity_id bigint, person_id bigint,
               blocked boolean, post_id bigint, conversation jsonb, conversation_id bigint, early jsonb)
language plpgsql
-- A batch is small beside the tables, always. Without statistics yet, or with a plan kept from when they were
-- empty, the planner would read them whole (measured: 25 times slower after 10,000 messages); each look-up is a
-- lateral one with a limit, so that it can only go by the whole key.
set enable_seqscan = off set enable_hashjoin = off set enable_mergejoin = off set plan_cache_mode = force_generic_plan
as $$
#variable_conflict use_column
begin
  with partners as (
    select distinct on (i.partner->>'external_id') i.partner
    from jsonb_to_recordset(p_items) as i(n integer, partner jsonb)
    order by i.partner->>'external_id', i.n desc
  ), made as (
    insert into identity as had (workspace_id, person_id, network, external_id, handle, name, reach, automatic)
    select p_workspace, coalesce(old.person_id, nextval('person_id_seq')), p_network,
           p.partner->>'external_id', p.partner->>'handle', p.partner->>'name',
           (p.partner->>'reach')::smallint, coalesce((p.partner->>'automatic')::boolean, false)
    from partners p
    left join lateral (
      select x.id, x.person_id, x.handle, x.name, x.reach, x.automatic from identity x where x.workspace_id = p_workspace
        and x.network = p_network and x.external_id = p.partner->>'external_id' limit 1) old on true
    where old.id is null or (old.handle, old.name, old.reach, old.automatic) is distinct from
      (p.partner->>'handle', p.partner->>'name', coalesce((p.partner->>'reach')::smallint, old.reach),
       coalesce((p.partner->>'automatic')::boolean, false))
    on conflict (workspace_id, network, external_id) do update
      set handle = excluded.handle, name = excluded.name, reach = coalesce(excluded.reach, had.reach),
        automatic = excluded.automatic
    returning person_id, name
  )
  insert into person (id, workspace_id, name, first_at)
  select made.person_id, p_workspace, made.name, p_now from made
  on conflict (id) do nothing;

  insert into post (workspace_id, account_id, external_id, title, body, url, published_at, author, is_ad)
  select distinct on (i.post->>'external_id') p_workspace, p_account, i.post->>'external_id',
         i.post->>'title', i.post->>'body', i.post->>'url', (i.post->>'published_at')::timestamptz,
         i.post->>'author', coalesce((i.post->>'is_ad')::boolean, false)
  from jsonb_to_recordset(p_items) as i(post jsonb)
  where i.post is not null and jsonb_typeof(i.post) = 'object' and not exists (
    select from post old where old.account_id = p_account and old.external_id = i.post->>'external_id')
  order by i.post->>'external_id'
  on conflict (account_id, external_id) do nothing;

  return query
  with items as (
    select i.n, i.external_id, i.thread_key, idn.id as identity_id, idn.person_id, pe.blocked,
           po.id as post_id, m.id as old_message
    from jsonb_to_recordset(p_items) as i(n integer, external_id text, thread_key text, partner jsonb, post jsonb)
    cross join lateral (
      select x.id, x.person_id from identity x where x.workspace_id = p_workspace
        and x.network = p_network and x.external_id = i.partner->>'external_id' limit 1) idn
    cross join lateral (select x.blocked from person x where x.id = idn.person_id limit 1) pe
    left join lateral (
      select x.id from post x where x.account_id = p_account
        and x.external_id = i.post->>'external_id' limit 1) po on true
    left join lateral (
      select x.id from message x where x.account_id = p_account
        and x.external_id = i.external_id limit 1) m on true
  ), keys as materialized (
    select k.person_id, k.thread_key, nextval('conversation_id_seq') as fresh_id
    from (select distinct items.person_id, items.thread_key from items) k
  ), found as (
    select c.* from (select * from keys order by keys.person_id, keys.thread_key) k cross join lateral (
      select x.* from conversation x where x.account_id = p_account and x.person_id = k.person_id
        and x.thread_key = k.thread_key limit 1 for no key update) c
  )
  select items.n, items.old_message is not null, coalesce(items.old_message, nextval('message_id_seq')),
         items.identity_id, items.person_id, items.blocked, items.post_id, to_jsonb(found),
         coalesce(found.id, keys.fresh_id),
         (select jsonb_agg(jsonb_build_object('body', e.body, 'at', e.at) order by e.at)
          from early_change e where e.account_id = p_account and e.external_id = items.external_id)
  from items
  join keys on keys.person_id = items.person_id and keys.thread_key = items.thread_key
  left join found on found.person_id = items.person_id and found.thread_key = items.thread_key
  order by items.n;
end $$;

-- Checked by the conversation they hang on; three look-ups less for each message taken in.
alter table message drop constraint message_workspace_id_fkey, drop constraint message_account_id_fkey;
alter table trail drop constraint trail_workspace_id_fkey;

do $$
declare t text;
begin
  foreach t in array array['rule', 'rule_version', 'rule_hit', 'auto_answer', 'rule_trial', 'team_turn', 'availability',
    'alert', 'alert_choice']
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
