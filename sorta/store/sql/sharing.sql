-- add_report: shares a report
insert into shared_report (workspace_id, name, ask, parts, token_hash, token, made_by, made_at, expires_at, mail_to, mail_every, mail_day,
  mail_hour, mail_next_at)
values (%(workspace_id)s, %(name)s, %(ask)s, %(parts)s, %(token_hash)s, %(token)s, %(member_id)s, %(now)s, %(expires_at)s, %(mail_to)s,
  %(mail_every)s, %(mail_day)s, %(mail_hour)s, %(mail_next_at)s)
returning id;

-- count_reports: how many are shared and neither over nor taken back
select count(*) from shared_report where workspace_id = %(workspace_id)s and revoked_at is null and expires_at > %(now)s;

-- list_reports: the shared reports, the newest first, with how the last letters fared
select s.id, s.name, s.parts, s.token, s.made_by, m.name as maker, s.made_at, s.expires_at, s.revoked_at, s.opened, s.opened_at, s.mail_to,
  s.mail_every, s.mail_day, s.mail_hour, s.mail_next_at,
  (select l.to_address || ': ' || l.problem from report_letter l where l.report_id = s.id and l.workspace_id = s.workspace_id
    and l.problem is not null and l.state <> 'sent' order by l.due_at desc limit 1) as mail_problem,
  (select max(l.due_at) from report_letter l where l.report_id = s.id and l.workspace_id = s.workspace_id and l.state = 'sent') as mailed_at
from shared_report s join member m on m.id = s.made_by
where s.workspace_id = %(workspace_id)s order by s.id desc limit 100;

-- find_report: the workspace of the one report that is asked for by what stands in its link
select id, workspace_id from shared_report where token_hash = %(token_hash)s;

-- count_opening: counts an opening, and those of this minute, unless they are as many as may be
update shared_report set opened = opened + 1, opened_at = %(now)s,
  in_minute = case when minute_at > %(now)s::timestamptz - interval '1 minute' then in_minute + 1 else 1 end,
  minute_at = case when minute_at > %(now)s::timestamptz - interval '1 minute' then minute_at else %(now)s end
where workspace_id = %(workspace_id)s and id = %(id)s and revoked_at is null and expires_at > %(now)s
  and not (minute_at > %(now)s::timestamptz - interval '1 minute' and in_minute >= %(most)s)
returning id;

-- get_report: a shared report that is in force
select s.id, s.name, s.ask, s.parts, s.made_by, s.expires_at, s.token
from shared_report s where s.workspace_id = %(workspace_id)s and s.id = %(id)s and s.revoked_at is null and s.expires_at > %(now)s;

-- revoke_report: takes a report back; nothing of it is mailed any more
with dropped as (
  update report_letter set state = 'dropped' where workspace_id = %(workspace_id)s and report_id = %(id)s and state = 'waiting'
)
update shared_report set revoked_at = %(now)s, mail_to = '{}', mail_every = null, mail_next_at = null
where workspace_id = %(workspace_id)s and id = %(id)s and revoked_at is null returning name;

-- list_due: reports whose time to be mailed has come, until the transaction ends
select s.id, s.mail_to, s.mail_every, s.mail_day, s.mail_hour, s.mail_next_at from shared_report s
where s.workspace_id = %(workspace_id)s and s.mail_next_at <= %(now)s and s.revoked_at is null and s.expires_at > %(now)s
order by s.id for update skip locked;

-- add_letters: what is to go out, each once
insert into report_letter (report_id, workspace_id, due_at, to_address, next_at)
select %(id)s, %(workspace_id)s, %(due_at)s, a, %(due_at)s from unnest(%(mail_to)s::text[]) a on conflict do nothing;

-- set_next: when it is mailed next
update shared_report set mail_next_at = %(next_at)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- claim_letter: one letter whose time has come, for as long as the lease
update report_letter l set tries = l.tries + 1, next_at = %(lease_until)s
where (l.report_id, l.due_at, l.to_address) in (select x.report_id, x.due_at, x.to_address from report_letter x
  where x.workspace_id = %(workspace_id)s and x.state = 'waiting' and x.next_at <= %(now)s order by x.next_at limit 1 for update skip locked)
returning l.report_id, l.due_at, l.to_address, l.tries;

-- set_letter: what became of it
update report_letter set state = %(state)s, problem = %(problem)s, next_at = %(next_at)s
where workspace_id = %(workspace_id)s and report_id = %(report_id)s and due_at = %(due_at)s and to_address = %(to_address)s
  and state = 'waiting';

-- list_addresses: the mail addresses of who works in the workspace
select lower(m.email) as email from membership s join member m on m.id = s.member_id where s.workspace_id = %(workspace_id)s;
