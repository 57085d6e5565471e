-- What a conversation is filed under (its tags, who watches it, its person's tags), in the order of due and in one table:
-- a join cannot be walked in another table's order. Kept by triggers, also for conversations that arrive with tags on
-- them, which a rule sees to.
create table filing (
  workspace_id bigint not null references workspace,
  under text not null check (under in ('tag', 'watch', 'person_tag')),
  -- The tag, or the member who watches.
  value bigint not null,
  conversation_id bigint not null references conversation,
  its_move text not null,
  its_due timestamptz not null,
  its_rank smallint not null,
  primary key (under, value, conversation_id)
);
create index filing_by_due on filing (under, value, its_move, its_due, its_rank, conversation_id);
create index filing_of on filing (conversation_id);
-- A tag belongs to one workspace: without this the planner takes each for a twentieth of what it is.
create statistics filing_owner (dependencies, mcv) on workspace_id, under, value from filing;
create index person_tag_of on person_tag (person_id);

-- All that a conversation is filed under.
create function file_under(p_tags bigint[], p_watchers bigint[], p_person bigint) returns table (under text, value bigint)
language sql stable as $$
  select 'tag', unnest(p_tags) union select 'watch', unnest(p_watchers)
  union select 'person_tag', t.tag_id from person_tag t where t.person_id = p_person
$$;

alter table conversation no force row level security;
alter table person_tag no force row level security;
insert into filing (workspace_id, under, value, conversation_id, its_move, its_due, its_rank)
select c.workspace_id, f.under, f.value, c.id, c.move, c.sort_due, c.sort_rank
from conversation c cross join lateral file_under(c.tags, c.watchers, c.person_id) f;
alter table conversation force row level security;
alter table person_tag force row level security;
drop trigger keep_tags on conversation;
drop trigger keep_watchers on conversation;
drop function keep_tags();
drop function keep_watchers();
drop table conversation_tag;
drop table conversation_watch;

alter table filing enable row level security;
alter table filing force row level security;
create policy in_workspace on filing
  using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
grant select, insert, update, delete on filing to sorta_app;

create function file_new() returns trigger language plpgsql as $$
begin
  insert into filing (workspace_id, under, value, conversation_id, its_move, its_due, its_rank)
  select a.workspace_id, f.under, f.value, a.id, a.move, a.sort_due, a.sort_rank
  from added a cross join lateral file_under(a.tags, a.watchers, a.person_id) f;
  return null;
end $$;
create function file_changed() returns trigger language plpgsql as $$
begin
  -- Most statements that write a new conversation change no other.
  perform from after limit 1;
  if not found then
    return null;
  end if;
  -- By an array, so that the index is walked however many rows the plan was once made for.
  delete from filing f where f.conversation_id = any(array(
      select a.id from before b join after a on a.id = b.id
      where (b.tags, b.watchers, b.person_id) is distinct from (a.tags, a.watchers, a.person_id)))
    and not exists (select from after a cross join lateral file_under(a.tags, a.watchers, a.person_id) w
      where a.id = f.conversation_id and w.under = f.under and w.value = f.value);
  insert into filing (workspace_id, under, value, conversation_id, its_move, its_due, its_rank)
  select a.workspace_id, f.under, f.value, a.id, a.move, a.sort_due, a.sort_rank
  from before b join after a on a.id = b.id cross join lateral file_under(a.tags, a.watchers, a.person_id) f
  where (b.tags, b.watchers, b.person_id, b.move, b.sort_due, b.sort_rank)
    is distinct from (a.tags, a.watchers, a.person_id, a.move, a.sort_due, a.sort_rank)
  on conflict (under, value, conversation_id) do update
    set its_move = excluded.its_move, its_due = excluded.its_due, its_rank = excluded.its_rank;
  return null;
end $$;
create trigger file_new after insert on conversation referencing new table as added
  for each statement execute function file_new();
create trigger file_changed after update on conversation referencing old table as before new table as after
  for each statement execute function file_changed();

create function file_person() returns trigger language plpgsql as $$
begin
  if tg_op = 'INSERT' then
    insert into filing (workspace_id, under, value, conversation_id, its_move, its_due, its_rank)
    select workspace_id, 'person_tag', new.tag_id, id, move, sort_due, sort_rank from conversation
    where person_id = new.person_id and workspace_id = new.workspace_id
    on conflict do nothing;
  else
    delete from filing f using conversation c
    where f.under = 'person_tag' and f.value = old.tag_id and f.conversation_id = c.id
      and c.person_id = old.person_id and c.workspace_id = old.workspace_id;
  end if;
  return null;
end $$;
create trigger file_person after insert or delete on person_tag for each row execute function file_person();

-- A short period is read from the index alone and then sorted.
drop index conversation_by_newest;
create index conversation_by_newest on conversation (workspace_id, move, last_at, id) include (sort_due, sort_rank);

-- As in 0004 and 0006. Words that are rare are looked up without the workspace, which is compared afterwards: the index holds
-- a list of all messages of a workspace, and going through that takes far longer than fetching a few of others.
create or replace function search_conversations(p_workspace bigint, p_query text, p_limit integer)
returns setof bigint language sql stable security definer set search_path = public, pg_temp as $$
  select conversation_id from (
    select m.conversation_id, max(m.id) as latest from message m
    where m.workspace_id + 0 = p_workspace
      and p_workspace = nullif(current_setting('app.workspace_id', true), '')::bigint
      and m.tsv @@ to_tsquery('simple', p_query)
    group by m.conversation_id) found order by latest desc limit p_limit
$$;
-- Looked into where the page is made.
drop function has_words(bigint, bigint, text);
-- What the planner thinks a beginning of a word matches is a guess, always the same: left to itself it walks all messages from
-- the latest back for a rare one. Common words are found soonest so, all others by their index.
create or replace function search_messages(p_workspace bigint, p_query text, p_limit integer)
returns table (message_id bigint, conversation_id bigint, body text, sent_at timestamptz)
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
  if p_workspace is distinct from nullif(current_setting('app.workspace_id', true), '')::bigint then
    return;
  end if;
  if is_common(p_query) then
    return query execute
      'select m.id, m.conversation_id, m.body, m.sent_at from message m
       where m.workspace_id = $1 and m.tsv @@ to_tsquery(''simple'', $2) order by m.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit;
  else
    return query execute
      'with found as materialized (
         select m.id, m.conversation_id, m.body, m.sent_at, m.arrived_at from message m
         where m.workspace_id + 0 = $1 and m.tsv @@ to_tsquery(''simple'', $2))
       select f.id, f.conversation_id, f.body, f.sent_at from found f order by f.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit;
  end if;
end $$;
