-- claim_duties: begins a duty at those of these places where its time has come and nobody else is at it
insert into duty as d (workspace_id, name, target, began_at, lease_until)
select p.workspace_id, %(name)s, p.target, %(now)s, %(lease_until)s
from unnest(%(workspaces)s::bigint[], %(targets)s::bigint[]) as p (workspace_id, target) order by 1, 3
on conflict (workspace_id, name, target) do update set began_at = excluded.began_at, lease_until = excluded.lease_until
where d.lease_until <= %(now)s and d.began_at <= %(not_since)s
returning workspace_id, target;

-- end_duties: how duties ended that were begun at these times; one that somebody else has begun since is theirs
update duty d set lease_until = e.now, took_ms = e.took_ms, problem = coalesce(e.problem, d.problem),
  succeeded_at = case when e.problem is null then e.now else d.succeeded_at end,
  failed_at = case when e.problem is null then d.failed_at else e.now end,
  failures = case when e.problem is null then 0 else d.failures + 1 end
from jsonb_to_recordset(%(ended)s::jsonb)
  as e (workspace_id bigint, name text, target bigint, began_at timestamptz, now timestamptz, took_ms integer, problem text)
where d.workspace_id = e.workspace_id and d.name = e.name and d.target = e.target and d.began_at = e.began_at;

-- list_duties: every duty of a workspace, with the account it is about
select d.name, d.target, d.began_at, d.succeeded_at, d.took_ms, d.failed_at, d.problem, d.failures, a.name as account_name, a.network
from duty d left join account a on a.workspace_id = d.workspace_id and a.id = d.target
where d.workspace_id = %(workspace_id)s order by d.name, d.target;

-- set_came_by: a duty's round has come by
insert into clock (name, every_seconds, came_by) values (%(name)s, %(every)s, %(now)s)
on conflict (name) do update set every_seconds = excluded.every_seconds, came_by = excluded.came_by;

-- get_behind: by how many seconds the duty that is furthest behind is late; null when the clock never went
select max(extract(epoch from %(now)s::timestamptz - came_by) - every_seconds)::real from clock where every_seconds <= 30;
