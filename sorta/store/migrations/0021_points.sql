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
