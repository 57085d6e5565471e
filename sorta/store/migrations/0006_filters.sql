-- Every filter of the open queue walks an index in the order of due; search reads newest first where words are common.

create index conversation_by_account on conversation (workspace_id, account_id, move, sort_due, sort_rank, id)
  where move <> 'settled';
create index conversation_by_network on conversation (workspace_id, network, move, sort_due, sort_rank, id)
  where move <> 'settled';
create index conversation_by_kind on conversation (workspace_id, kind, move, sort_due, sort_rank, id)
  where move <> 'settled';
create index conversation_private on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and not public;
create index conversation_unowned on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and owner_id is null;
create index conversation_by_team on conversation (workspace_id, team_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and team_id is not null;
create index conversation_by_reading on conversation (workspace_id, reads_as, move, sort_due, sort_rank, id)
  where move <> 'settled' and reads_as is not null;
create index conversation_by_sentiment on conversation (workspace_id, sentiment_band, move, sort_due, sort_rank, id)
  where move <> 'settled';
create index conversation_by_language on conversation (workspace_id, language, move, sort_due, sort_rank, id)
  where move <> 'settled' and language is not null;
create index conversation_with_attachment on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and has_attachment;
create index conversation_bare on conversation (workspace_id, move, sort_due, sort_rank, id)
  where move <> 'settled' and bare_mention;

-- A tag's conversations in the order of due, carried beside the tag, for a join cannot be walked in another table's order.
drop trigger keep_tags on conversation;
drop function keep_tags();
drop table conversation_tag;
create table conversation_tag (
  workspace_id bigint not null,
  tag_id bigint not null references tag,
  conversation_id bigint not null references conversation,
  tag_move text not null,
  tag_due timestamptz not null,
  tag_rank smallint not null,
  primary key (tag_id, conversation_id)
);
create index conversation_tag_by_due on conversation_tag (tag_id, tag_move, tag_due, tag_rank, conversation_id);
create index conversation_tag_of on conversation_tag (conversation_id);
alter table conversation no force row level security;
insert into conversation_tag (workspace_id, tag_id, conversation_id, tag_move, tag_due, tag_rank)
  select workspace_id, unnest(tags), id, move, sort_due, sort_rank from conversation;
alter table conversation force row level security;
alter table conversation_tag enable row level security;
alter table conversation_tag force row level security;
create policy in_workspace on conversation_tag
  using (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint)
  with check (workspace_id = nullif(current_setting('app.workspace_id', true), '')::bigint);
grant select, insert, update, delete on conversation_tag to sorta_app;

create function keep_tags() returns trigger language plpgsql as $$
begin
  if old.tags is distinct from new.tags then
    delete from conversation_tag where conversation_id = new.id and workspace_id = new.workspace_id
      and tag_id <> all(new.tags);
  end if;
  insert into conversation_tag (workspace_id, tag_id, conversation_id, tag_move, tag_due, tag_rank)
    select new.workspace_id, t, new.id, new.move, new.sort_due, new.sort_rank from unnest(new.tags) t
  on conflict (tag_id, conversation_id) do update
    set tag_move = excluded.tag_move, tag_due = excluded.tag_due, tag_rank = excluded.tag_rank;
  return null;
end $$;
create trigger keep_tags after update on conversation for each row
  when (old.tags is distinct from new.tags or (new.tags <> '{}'
    and (old.move, old.sort_due, old.sort_rank) is distinct from (new.move, new.sort_due, new.sort_rank)))
  execute function keep_tags();

-- Search, planned each time with the words known: rare ones by the index of words, common ones newest first.
drop index message_feed;
create index message_by_arrival on message (workspace_id, arrived_at);
alter table message alter column tsv set statistics 2000;

create or replace function search_messages(p_workspace bigint, p_query text, p_limit integer)
returns table (message_id bigint, conversation_id bigint, body text, sent_at timestamptz)
language plpgsql stable security definer set search_path = public, pg_temp as $$
begin
  if p_workspace is distinct from nullif(current_setting('app.workspace_id', true), '')::bigint then
    return;
  end if;
  return query execute
    'select m.id, m.conversation_id, m.body, m.sent_at from message m
     where m.workspace_id = $1 and m.tsv @@ to_tsquery(''simple'', $2) order by m.arrived_at desc limit $3'
    using p_workspace, p_query, p_limit;
end $$;

-- Whether every one of the words stands in more than one message of two hundred, as the planner's statistics have it.
create function is_common(p_query text) returns boolean
language sql stable security definer set search_path = pg_catalog, public, pg_temp as $$
  select coalesce(bool_and(coalesce((
    select sum(e.freq) from pg_stats s
      cross join lateral unnest(s.most_common_elems::text::text[], s.most_common_elem_freqs) as e(word, freq)
    where s.schemaname = 'public' and s.tablename = 'message' and s.attname = 'tsv'
      and (e.word = w.word or (w.is_prefix and e.word like replace(replace(w.word, '%', ''), '_', '\_') || '%'))), 0) > 0.005), false)
  from (select rtrim(replace(part, '''', ''), ':*') as word, part like '%:*' as is_prefix
    from regexp_split_to_table(p_query, ' & ') part) w
$$;
grant create on schema public to sorta_search;
alter function is_common owner to sorta_search;
-- Whether a conversation has all the words in one message; past the policies as the search is.
create function has_words(p_conversation bigint, p_workspace bigint, p_query text) returns boolean
language sql stable security definer set search_path = public, pg_temp as $$
  select exists (select from message m where m.conversation_id = p_conversation and m.workspace_id = p_workspace
    and p_workspace = nullif(current_setting('app.workspace_id', true), '')::bigint
    and m.tsv @@ to_tsquery('simple', p_query))
$$;
alter function has_words owner to sorta_search;
revoke create on schema public from sorta_search;
revoke all on function is_common from public;
revoke all on function has_words from public;
grant execute on function is_common to sorta_app;
grant execute on function has_words to sorta_app;
