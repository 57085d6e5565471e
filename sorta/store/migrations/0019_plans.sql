-- A person's conversations at one move: those of tagged persons are looked up by it, many at once.
drop index conversation_by_person;
create index conversation_by_person on conversation (person_id, move);

-- As in 0006. What the planner thinks a beginning of a word matches is a guess, always the same: left to itself it walks all
-- messages from the latest back for a rare one. Common words are found soonest so, all others by their index.
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
         where m.workspace_id = $1 and m.tsv @@ to_tsquery(''simple'', $2))
       select f.id, f.conversation_id, f.body, f.sent_at from found f order by f.arrived_at desc limit $3'
      using p_workspace, p_query, p_limit;
  end if;
end $$;
