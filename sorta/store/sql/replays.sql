-- add_replay: days to be played again
insert into what_if (workspace_id, member_id, asked, made_at, heard_at)
values (%(workspace_id)s, %(member_id)s, %(asked)s, %(now)s, now()) returning id;

-- lock_member: one member's are begun one after the other
select pg_advisory_xact_lock(hashtext('what_if'), %(member_id)s::integer);

-- is_playing: whether one of a member's is waiting or being played
select exists (select from what_if where workspace_id = %(workspace_id)s and member_id = %(member_id)s
  and state in ('waiting', 'running'));

-- forget_oldest: those beyond the newest so many
delete from what_if where workspace_id = %(workspace_id)s and state in ('done', 'failed') and id <= (
  select id from what_if where workspace_id = %(workspace_id)s order by id desc offset %(most)s limit 1);

-- list_replays: the newest first
select w.id, w.member_id, m.name as member_name, w.asked, w.made_at, w.state, w.done, w.total, w.problem, w.result
from what_if w join member m on m.id = w.member_id
where w.workspace_id = %(workspace_id)s order by w.id desc;

-- get_replay: one
select w.id, w.member_id, m.name as member_name, w.asked, w.made_at, w.state, w.done, w.total, w.problem, w.result
from what_if w join member m on m.id = w.member_id where w.workspace_id = %(workspace_id)s and w.id = %(id)s;

-- set_progress: how far it has come; nothing when it is gone or over
update what_if set state = 'running', done = %(done)s, total = %(total)s, heard_at = now()
where workspace_id = %(workspace_id)s and id = %(id)s and state in ('waiting', 'running') returning id;

-- set_result: what came out
update what_if set state = 'done', result = %(result)s, done = total, heard_at = now()
where workspace_id = %(workspace_id)s and id = %(id)s and state in ('waiting', 'running') returning id;

-- set_problem: it failed, and why
update what_if set state = 'failed', problem = %(problem)s, heard_at = now()
where workspace_id = %(workspace_id)s and id = %(id)s and state in ('waiting', 'running');

-- delete_replay: forgets one of a member's own; one that is being played ends with its next step
delete from what_if where workspace_id = %(workspace_id)s and member_id = %(member_id)s and id = %(id)s returning id;

-- list_silent: those of which nothing was heard for so many seconds
select id from what_if where workspace_id = %(workspace_id)s and state in ('waiting', 'running')
  and heard_at < now() - make_interval(secs => %(silent_for)s) order by id;

-- count_waits: how many waits began in days that are over, or ended in them
select count(*) from spell where workspace_id = %(workspace_id)s and since < %(ends)s
  and (since >= %(begins)s or (ended_at >= %(begins)s and ended_at <= %(ends)s));
