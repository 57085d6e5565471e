-- claim_duty: begins a duty whose time has come and that nobody else is at
insert into duty as d (workspace_id, name, target, began_at, lease_until)
values (%(workspace_id)s, %(name)s, %(target)s, %(now)s, %(lease_until)s)
on conflict (workspace_id, name, target) do update set began_at = excluded.began_at, lease_until = excluded.lease_until
where d.lease_until <= %(now)s and d.began_at <= %(not_since)s
returning 1;

-- set_succeeded: a duty is done
update duty set lease_until = %(now)s, succeeded_at = %(now)s, took_ms = %(took_ms)s, failures = 0
where workspace_id = %(workspace_id)s and name = %(name)s and target = %(target)s and began_at = %(began_at)s;

-- set_failed: a duty failed, and how
update duty set lease_until = %(now)s, failed_at = %(now)s, took_ms = %(took_ms)s, problem = %(problem)s, failures = failures + 1
where workspace_id = %(workspace_id)s and name = %(name)s and target = %(target)s and began_at = %(began_at)s;

-- list_duties: every duty of a workspace, with the account it is about
select d.name, d.target, d.began_at, d.succeeded_at, d.took_ms, d.failed_at, d.problem, d.failures, a.name as account_name, a.network
from duty d left join account a on a.workspace_id = d.workspace_id and a.id = d.target
where d.workspace_id = %(workspace_id)s order by d.name, d.target;

-- set_came_by: a duty's round has come by
insert into clock (name, every_seconds, came_by) values (%(name)s, %(every)s, %(now)s)
on conflict (name) do update set every_seconds = excluded.every_seconds, came_by = excluded.came_by;

-- get_behind: by how many seconds the duty that is furthest behind is late; null when the clock never went
select max(extract(epoch from %(now)s::timestamptz - came_by) - every_seconds)::real from clock where every_seconds <= 30;
