-- get_hours: when a workspace works, with its zone; no row when it was never set
select w.time_zone, h.week, h.special, h.targets, h.member_id, h.changed_at, h.progress
from workspace_hours h join workspace w on w.id = h.workspace_id where h.workspace_id = %(workspace_id)s;

-- set_hours: when a workspace works from now on
insert into workspace_hours (workspace_id, week, special, targets, member_id, changed_at)
values (%(workspace_id)s, %(week)s, %(special)s, %(targets)s, %(member_id)s, %(now)s)
on conflict (workspace_id) do update set week = excluded.week, special = excluded.special,
  targets = excluded.targets, member_id = excluded.member_id, changed_at = excluded.changed_at;

-- keep_promise: what is promised from now on, beside what was promised before
insert into promise_kept (workspace_id, begins, time_zone, week, special, targets)
values (%(workspace_id)s, %(now)s, %(zone)s, %(week)s, %(special)s, %(targets)s)
on conflict (workspace_id, begins) do update set time_zone = excluded.time_zone, week = excluded.week,
  special = excluded.special, targets = excluded.targets;

-- list_promises: what was promised since when, oldest first
select begins, time_zone, week, special, targets from promise_kept where workspace_id = %(workspace_id)s order by begins;

-- set_zone: the clock on the wall of a workspace
update workspace set time_zone = %(zone)s where id = %(workspace_id)s;

-- set_progress: how far counting anew has come; null when it is done
update workspace_hours set progress = %(progress)s where workspace_id = %(workspace_id)s;

-- count_awaiting: how many conversations have an answer promised
select count(*) from conversation where workspace_id = %(workspace_id)s and move <> 'settled' and awaiting_since is not null;

-- list_awaiting: the next conversations with an answer promised, by number
select id, awaiting_since, priority, public, kind, due from conversation
where workspace_id = %(workspace_id)s and move <> 'settled' and awaiting_since is not null and id > %(after)s
  and id %% %(lanes)s = %(lane)s
order by id limit %(limit)s;

-- set_dues: promised instants anew, where the promise is still the one that was looked at
update conversation c set due = d.due
from unnest(%(ids)s::bigint[], %(sinces)s::timestamptz[], %(priorities)s::smallint[], %(dues)s::timestamptz[])
  as d(id, since, priority, due)
where c.workspace_id = %(workspace_id)s and c.id = d.id and c.awaiting_since = d.since and c.priority = d.priority;
