-- Points for what people did, each decayed to the later of both instants (half-life 30 days). A function for its settings:
-- as in 0008, a plan kept from when there were few people would read all of them for each message.
create function add_points(p_workspace bigint, p_persons bigint[], p_points real[], p_ats timestamptz[]) returns void
language plpgsql
set enable_seqscan = off set enable_hashjoin = off set enable_mergejoin = off set plan_cache_mode = force_generic_plan
as $$
begin
  update person p set
    points = p.points * power(0.5, extract(epoch from greatest(g.at, p.points_at, g.at) - coalesce(p.points_at, g.at)) / 2592000)
      + g.points * power(0.5, extract(epoch from greatest(g.at, p.points_at) - g.at) / 2592000),
    points_at = greatest(g.at, p.points_at)
  from (
    select given.person_id as id, max(given.at) as at,
      sum(given.points * power(0.5, extract(epoch from latest.at - given.at) / 2592000)) as points
    from unnest(p_persons, p_points, p_ats) as given(person_id, points, at)
    join (select person_id, max(at) as at from unnest(p_persons, p_ats) as l(person_id, at)
      group by person_id) latest on latest.person_id = given.person_id
    group by given.person_id order by given.person_id) g
  where p.id = g.id and p.workspace_id = p_workspace;
end $$;

-- As in 0004 and 0020, but done at once when a statement has changed nothing, as most that write a new conversation do.
create or replace function note_changed() returns trigger language plpgsql as $$
begin
  perform from after limit 1;
  if not found then
    return null;
  end if;
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
create or replace function file_changed() returns trigger language plpgsql as $$
begin
  perform from after limit 1;
  if not found then
    return null;
  end if;
  -- By an array, so that the index is walked however many rows the plan was once made for.
  delete from filing f where f.conversation_id = any(array(
      select a.id from before b join after a on a.id = b.id
      where (b.tags, b.watchers, b.person_id) is distinct from (a.tags, a.watchers, a.person_id)))
    and not exists (select from after a where a.id = f.conversation_id and case f.under
      when 'tag' then f.value = any(a.tags) when 'watch' then f.value = any(a.watchers)
      else exists (select from person_tag t where t.person_id = a.person_id and t.tag_id = f.value) end);
  insert into filing (workspace_id, under, value, conversation_id, its_move, its_due, its_rank)
  select a.workspace_id, f.under, f.value, a.id, a.move, a.sort_due, a.sort_rank
  from before b join after a on a.id = b.id cross join lateral (
    select 'tag' as under, unnest(a.tags) as value union select 'watch', unnest(a.watchers)
    union select 'person_tag', t.tag_id from person_tag t where t.person_id = a.person_id) f
  where (b.tags, b.watchers, b.person_id, b.move, b.sort_due, b.sort_rank)
    is distinct from (a.tags, a.watchers, a.person_id, a.move, a.sort_due, a.sort_rank)
  on conflict (under, value, conversation_id) do update
    set its_move = excluded.its_move, its_due = excluded.its_due, its_rank = excluded.its_rank;
  return null;
end $$;
