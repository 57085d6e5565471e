-- add_run: reads what was said in a range; nothing where that is done for the account already
insert into earlier_run (workspace_id, account_id, since, until, stays_open, next_at, made_by, made_at)
values (%(workspace_id)s, %(account_id)s, %(since)s, %(until)s, %(stays_open)s, %(now)s, %(member_id)s, %(now)s)
on conflict (account_id) where state = 'waiting' do nothing returning id;

-- list_runs: the latest of an account
select id, since, until, stays_open, seen, expected, taken, state, problem, made_by, made_at, ended_at from earlier_run
where workspace_id = %(workspace_id)s and account_id = %(account_id)s order by id desc limit 5;

-- stop_run: no more is read; what came stays
update earlier_run set state = 'stopped', ended_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and account_id = %(account_id)s and state = 'waiting' returning id;

-- claim_run: takes one that is due, of an account that is connected
update earlier_run set next_at = %(lease_until)s, tries = tries + 1 where id = (
  select r.id from earlier_run r join account a on a.id = r.account_id
  where r.workspace_id = %(workspace_id)s and r.state = 'waiting' and r.next_at <= %(now)s and a.disconnected_at is null and a.paused_reason is null
  order by r.next_at limit 1 for update of r skip locked)
returning id, account_id, since, until, stays_open, cursor, tries;

-- set_progress: how far it is; whether it was stopped meanwhile
update earlier_run set cursor = %(cursor)s, seen = seen + %(seen)s, taken = taken + %(taken)s, expected = coalesce(%(expected)s, expected),
  tries = 0, problem = null, next_at = %(next_at)s, state = case when %(over)s then 'done' else state end,
  ended_at = case when %(over)s then %(now)s::timestamptz end
where workspace_id = %(workspace_id)s and id = %(id)s and state = 'waiting' returning id;

-- set_problem: why it does not go on, and when it is tried again
update earlier_run set problem = %(problem)s, next_at = %(again)s where workspace_id = %(workspace_id)s and id = %(id)s and state = 'waiting';

-- begin_reading: from when on an account is read by itself
update account set reads_from = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s and reads_from is null;
