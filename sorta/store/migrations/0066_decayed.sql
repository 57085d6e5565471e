-- What points given at an instant are worth at another: half after 30 days, never more than they were. The database's word for
-- core.standing.decay; a test holds the two together. Written in line by the planner.
create function decayed(p_points double precision, p_since timestamptz, p_at timestamptz) returns double precision
language sql immutable parallel safe as $$
  select p_points * power(0.5::double precision, greatest(0, extract(epoch from p_at - p_since)::double precision) / 2592000)
$$;
create or replace function add_points(p_workspace bigint, p_persons bigint[], p_points real[], p_ats timestamptz[]) returns void
language plpgsql
set enable_seqscan = off set enable_hashjoin = off set enable_mergejoin = off set plan_cache_mode = force_generic_plan
as $$
begin
  update person p set
    points = decayed(p.points, coalesce(p.points_at, g.at), greatest(g.at, p.points_at)) + decayed(g.points, g.at, greatest(g.at, p.points_at)),
    points_at = greatest(g.at, p.points_at)
  from (
    select given.person_id as id, max(given.at) as at, sum(decayed(given.points, given.at, latest.at)) as points
    from unnest(p_persons, p_points, p_ats) as given(person_id, points, at)
    join (select person_id, max(at) as at from unnest(p_persons, p_ats) as l(person_id, at)
      group by person_id) latest on latest.person_id = given.person_id
    group by given.person_id order by given.person_id) g
  where p.id = g.id and p.workspace_id = p_workspace;
end $$;
