-- Messages are found by the words that core.finding makes of them, folded as rules fold them, and people by theirs. What was there before is made
-- ready by a duty, the newest first; until then it is not found by words.
alter table message drop column tsv;
alter table message add column words tsvector;
alter table message alter column words set statistics 2000;
create index message_words on message using gin (workspace_id, words);
create index message_unread_words on message (workspace_id, id) where words is null;

alter table identity add column folded text;
create index identity_unfolded on identity (workspace_id, id) where folded is null;
create function forget_folded() returns trigger language plpgsql set search_path = pg_catalog, public, pg_temp as $$
begin
  if new.name is distinct from old.name or new.handle is distinct from old.handle then
    new.folded := null;
  end if;
  return new;
end $$;
create trigger forget_folded before update of name, handle on identity for each row execute function forget_folded();

-- Whether every one of the words stands in more than one message of two hundred, as the planner's statistics have it; a star at its end says that it may go on.
drop function is_common(text);
create function is_common(p_words text[]) returns boolean
language sql stable security definer set search_path = pg_catalog, public, pg_temp as $$
  select coalesce(bool_and(coalesce((
    select sum(e.freq) from pg_stats s
      cross join lateral unnest(s.most_common_elems::text::text[], s.most_common_elem_freqs) as e(word, freq)
    where s.schemaname = 'public' and s.tablename = 'message' and s.attname = 'words'
      and (e.word = w.word or (w.is_prefix and e.word like replace(replace(w.word, '%', ''), '_', '\_') || '%'))), 0) > 0.005), false)
  from (select rtrim(part, '*') as word, part like '%*' as is_prefix from unnest(p_words) part) w
$$;

-- As in 0047; the words beside the query say whether they are common.
drop function search_messages(bigint, text, integer);
create or replace function search_conversations(p_workspace bigint, p_query text, p_limit integer)
returns setof bigint language sql stable security definer set search_path = public, pg_temp as $$
  select conversation_id from (
    select m.conversation_id, max(m.id) as latest from message m
    where m.workspace_id + 0 = p_workspace
      and p_workspace = chosen_workspace()
      and ((select seen_accounts()) is null or m.account_id = any ((select seen_accounts())::bigint[]))
      and m.words @@ p_query::tsquery
    group by m.conversation_id) found order by latest desc limit p_limit
$$;
create function search_messages(p_workspace bigint, p_query text, p_words text[], p_limit integer)
returns table (message_id bigint, conversation_id bigint, body text, sent_at timestamptz)
language plpgsql stable security definer set search_path = public, pg_temp rows 10 as $$
declare
  seen bigint[] := seen_accounts();
begin
  if p_workspace is distinct from chosen_workspace() then
    return;
  end if;
  if is_common(p_words) then
    return query execute
      'select m.id, m.conversation_id, m.body, m.sent_at from message m
       where m.workspace_id = $1 and m.words @@ $2::tsquery and ($4 is null or m.account_id = any ($4))
       order by m.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit, seen;
  else
    return query execute
      'with found as materialized (
         select m.id, m.conversation_id, m.body, m.sent_at, m.arrived_at from message m
         where m.workspace_id + 0 = $1 and m.words @@ $2::tsquery and ($4 is null or m.account_id = any ($4)))
       select f.id, f.conversation_id, f.body, f.sent_at from found f order by f.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit, seen;
  end if;
end $$;
grant create on schema public to sorta_search;
alter function is_common(text[]) owner to sorta_search;
alter function search_messages(bigint, text, text[], integer) owner to sorta_search;
revoke create on schema public from sorta_search;
revoke all on function is_common(text[]), search_messages(bigint, text, text[], integer) from public;
grant execute on function is_common(text[]), search_messages(bigint, text, text[], integer) to sorta_app;
