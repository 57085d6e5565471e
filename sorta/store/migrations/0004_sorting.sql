-- The sorting pass: teams, tags, watching, what a message reads as, acts on networks, views, people, counts.

create table team (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null,
  unique (workspace_id, name)
);

create table team_member (
  team_id bigint not null references team,
  member_id bigint not null references member,
  workspace_id bigint not null references workspace,
  primary key (team_id, member_id)
);

create table account_group (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null,
  accounts bigint[] not null,
  unique (workspace_id, name)
);

create table tag (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  name text not null
);
create unique index tag_name on tag (workspace_id, lower(name));

-- What the row carries for filters and for show. Reading and rating are those of their latest message.
alter table conversation
  add team_id bigint references team,
  add tags bigint[] not null default '{}',
  add watchers bigint[] not null default '{}',
  add sentiment real,
  add reads_as text,
  add language text,
  add bare_mention boolean not null default false,
  add first_contact boolean not null default false,
  add has_attachment boolean not null default false,
  add rating smallint check (rating between 1 and 5),
  add standing smallint,
  -- Banded, because a raw threshold that few rows pass walks everything. VADER's own thresholds.
  add sentiment_band smallint generated always as
    (case when sentiment >= 0.05 then 1 when sentiment <= -0.05 then -1 else 0 end) stored,
  add sort_standing smallint not null generated always as (-coalesce(standing, 0)) stored;
create index conversation_by_owner on conversation (workspace_id, owner_id, move, sort_due, sort_rank, id);
create index conversation_by_rank on conversation (workspace_id, move, sort_rank, sort_due, id);
create index conversation_by_standing on conversation (workspace_id, move, sort_standing, sort_due, id);
create index conversation_of_post on conversation (post_id) where post_id is not null;

-- Joined to the row by triggers, because `@>` on an array is not leakproof and would not use an index here.
create table conversation_tag (
  workspace_id bigint not null,
  tag_id bigint not null references tag,
  conversation_id bigint not null references conversation,
  primary key (tag_id, conversation_id)
);
create table conversation_watch (
  workspace_id bigint not null,
  member_id bigint not null,
  conversation_id bigint not null references conversation,
  primary key (member_id, conversation_id)
);
create function keep_tags() returns trigger language plpgsql as $$
begin
  delete from conversation_tag where conversation_id = new.id and workspace_id = new.workspace_id
    and tag_id <> all(new.tags);
  insert into conversation_tag (workspace_id, tag_id, conversation_id)
    select new.workspace_id, t, new.id from unnest(new.tags) t on conflict do nothing;
  return null;
end $$;
create function keep_watchers() returns trigger language plpgsql as $$
begin
  delete from conversation_watch where conversation_id = new.id and workspace_id = new.workspace_id
    and member_id <> all(new.watchers);
  insert into conversation_watch (workspace_id, member_id, conversation_id)
    select new.workspace_id, m, new.id from unnest(new.watchers) m on conflict do nothing;
  return null;
end $$;
create trigger keep_tags after update on conversation for each row
  when (old.tags is distinct from new.tags) execute function keep_tags();
create trigger keep_watchers after update on conversation for each row
  when (old.watchers is distinct from new.watchers) execute function keep_watchers();

alter table message
  add language text,
  add sentiment real,
  add reads_as text,
  -- {words, links, bare_mention, first_contact, certain}: why it was read so
  add evidence jsonb,
  add rating smallint check (rating between 1 and 5),
  add attachments jsonb not null default '[]',
  add hidden boolean not null default false,
  add liked boolean not null default false,
  add reposted boolean not null default false,
  add removed_by bigint references member;

-- Acts on a network go the way of replies: `what` is reply, like, unlike, hide, show, delete, repost, block, unblock.
alter table outbox
  add what text not null default 'reply' check (what in
    ('reply', 'like', 'unlike', 'hide', 'show', 'delete', 'repost', 'block', 'unblock')),
  add member_id bigint references member,
  drop constraint outbox_message_id_key;
create unique index outbox_reply on outbox (message_id) where what = 'reply';

create table correction (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  message_id bigint not null references message,
  field text not null check (field in ('sentiment', 'reads_as', 'language')),
  was text,
  now text,
  member_id bigint not null references member,
  at timestamptz not null,
  unique (message_id, field)
);

create table saved_view (
  id bigint generated always as identity primary key,
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  name text not null check (length(name) between 1 and 80),
  shared boolean not null,
  query jsonb not null,
  unique (workspace_id, member_id, name)
);

alter table person
  add points real not null default 0,
  add points_at timestamptz,
  add standing smallint;

create table person_tag (
  workspace_id bigint not null references workspace,
  tag_id bigint not null references tag,
  person_id bigint not null references person,
  primary key (tag_id, person_id)
);
-- Counts by move and one more thing. Every change of a conversation appends what it took away and what it
-- added; the worker folds these into `tally`. Both together are exact at any moment, and no row is hot.
create table tally (
  workspace_id bigint not null,
  move text not null,
  dimension text not null,
  value text not null,
  n bigint not null,
  primary key (workspace_id, dimension, move, value)
);
create table tally_change (
  id bigint generated always as identity primary key,
  workspace_id bigint not null,
  sign smallint not null,
  move text not null,
  owner_id bigint, team_id bigint, account_id bigint not null, kind text not null, public boolean not null,
  priority smallint not null, sentiment_band smallint, reads_as text, language text, tags bigint[] not null
);
create index tally_change_of on tally_change (workspace_id);

create function note_new() returns trigger language plpgsql as $$
begin
  insert into tally_change (workspace_id, sign, move, owner_id, team_id, account_id, kind, public, priority,
    sentiment_band, reads_as, language, tags)
  select workspace_id, 1, move, owner_id, team_id, account_id, kind, public, priority, sentiment_band, reads_as,
    language, tags from added;
  return null;
end $$;
create function note_changed() returns trigger language plpgsql as $$
begin
  insert into tally_change (workspace_id, sign, move, owner_id, team_id, account_id, kind, public, priority,
    sentiment_band, reads_as, language, tags)
  select b.workspace_id, s.sign, s.move, s.owner_id, s.team_id, s.account_id, s.kind, s.public, s.priority,
    s.sentiment_band, s.reads_as, s.language, s.tags
  from before b join after a on a.id = b.id cross join lateral (values
    (-1, b.move, b.owner_id, b.team_id, b.account_id, b.kind, b.public, b.priority, b.sentiment_band, b.reads_as,
      b.language, b.tags),
    (1, a.move, a.owner_id, a.team_id, a.account_id, a.kind, a.public, a.priority, a.sentiment_band, a.reads_as,
      a.language, a.tags)) s(sign, move, owner_id, team_id, account_id, kind, public, priority, sentiment_band,
      reads_as, language, tags)
  where (b.move, b.owner_id, b.team_id, b.kind, b.priority, b.sentiment_band, b.reads_as, b.language, b.tags)
    is distinct from
    (a.move, a.owner_id, a.team_id, a.kind, a.priority, a.sentiment_band, a.reads_as, a.language, a.tags);
  return null;
end $$;
create trigger note_new after insert on conversation referencing new table as added
  for each statement execute function note_new();
create trigger note_changed after update on conversation referencing old table as before new table as after
  for each statement execute function note_changed();

-- What changes say of each dimension, as (workspace, move, dimension, value, n).
create view tally_said with (security_invoker = true) as
  select c.workspace_id, c.move, d.dimension, d.value, c.sign as n
  from tally_change c cross join lateral (
    select * from (values ('all', ''), ('owner', coalesce(c.owner_id::text, '')), ('team', c.team_id::text),
      ('account', c.account_id::text), ('kind', c.kind), ('public', c.public::text),
      ('priority', c.priority::text), ('sentiment', c.sentiment_band::text), ('reads_as', c.reads_as),
      ('language', c.language)) v(dimension, value) where v.value is not null
    union all select 'tag', t::text from unnest(c.tags) t) d;

-- The owner is bound by the policies too (FORCE); for this one count it must see every workspace.
alter table conversation no force row level security;
insert into tally (workspace_id, move, dimension, value, n)
select c.workspace_id, c.move, d.dimension, d.value, count(*)
from conversation c cross join lateral (values ('all', ''), ('owner', coalesce(c.owner_id::text, '')),
  ('account', c.account_id::text), ('kind', c.kind), ('public', c.public::text), ('priority', c.priority::text),
  ('sentiment', c.sentiment_band::text)) d(dimension, value) where d.value is not null
group by 1, 2, 3, 4;
alter table conversation force row level security;

do $$
declare t text;
begin
  foreach t in array array['team', 'team_member', 'account_group', 'tag', 'conversation_tag', 'conversation_watch',
    'correction', 'saved_view', 'person_tag', 'tally', 'tally_change']
  loop
    execute format('alter table %I enable row level security', t);
    execute format('alter table %I force row level security', t);
    execute format('create policy in_workspace on %I using (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint) with check (workspace_id = '
      'nullif(current_setting(''app.workspace_id'', true), '''')::bigint)', t);
    execute format('grant select, insert, update, delete on %I to sorta_app', t);
  end loop;
end $$;
grant select on tally_said to sorta_app;
grant usage on all sequences in schema public to sorta_app;

-- The conversations whose messages have all the words, newest first; past the policies as `search_messages` is.
create function search_conversations(p_workspace bigint, p_query text, p_limit integer)
returns setof bigint language sql stable security definer set search_path = public, pg_temp as $$
  select conversation_id from (
    select m.conversation_id, max(m.id) as latest from message m
    where m.workspace_id = p_workspace
      and p_workspace = nullif(current_setting('app.workspace_id', true), '')::bigint
      and m.tsv @@ to_tsquery('simple', p_query)
    group by m.conversation_id) found order by latest desc limit p_limit
$$;
grant create on schema public to sorta_search;
alter function search_conversations owner to sorta_search;
revoke create on schema public from sorta_search;
revoke all on function search_conversations from public;
grant execute on function search_conversations to sorta_app;
