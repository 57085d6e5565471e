-- get_outgoing: whether what goes out is held, and how much waits
select w.held_at, w.held_by, w.held_reason, (select count(*) from outbox o where o.workspace_id = w.id
  and o.state in ('queued', 'waiting')) as waiting
from workspace w where w.id = %(workspace_id)s;

-- set_hold: holds what goes out, or lets it go
update workspace set held_at = %(at)s, held_by = %(by)s, held_reason = %(reason)s where id = %(workspace_id)s;
