-- has_members: whether anybody has an account
select exists (select from member);

-- lock_first: only one makes the first organisation at a time
select pg_advisory_xact_lock(hashtext('first_owner'));

-- set_pending: invites somebody, or again who was invited and has not come
insert into invitation (workspace_id, email, role, limited, groups, teams, token_hash, token, made_by, made_at, expires_at, mail_state, mail_next_at)
values (%(workspace_id)s, %(email)s, %(role)s, %(limited)s, %(groups)s, %(teams)s, %(token_hash)s, %(token)s, %(member_id)s, %(now)s, %(expires_at)s, %(mail_state)s,
  %(mail_next_at)s)
on conflict (workspace_id, email) where taken_at is null and cancelled_at is null do update set role = excluded.role,
  limited = excluded.limited, groups = excluded.groups, teams = excluded.teams,
  token_hash = excluded.token_hash, token = excluded.token, made_by = excluded.made_by, made_at = excluded.made_at,
  expires_at = excluded.expires_at, mail_state = excluded.mail_state, mail_next_at = excluded.mail_next_at, mail_tries = 0, mail_problem = null
returning id;

-- count_pending: how many have been invited and have not come
select count(*) from invitation where workspace_id = %(workspace_id)s and taken_at is null and cancelled_at is null;

-- list_pending: who has been invited and has not come, the newest first
select i.id, i.email, i.role, i.limited, i.groups, i.teams, i.token, i.made_at, i.expires_at, i.mail_state, i.mail_problem, m.name as made_by_name
from invitation i join member m on m.id = i.made_by
where i.workspace_id = %(workspace_id)s and i.taken_at is null and i.cancelled_at is null order by i.id desc;

-- cancel: takes an invitation back
update invitation set cancelled_at = %(now)s, mail_state = case when mail_state = 'waiting' then 'none' else mail_state end, mail_next_at = null
where workspace_id = %(workspace_id)s and id = %(id)s and taken_at is null and cancelled_at is null returning email;

-- find: the invitation of a link, kept from others who take it, when it still leads anywhere
select id, workspace_id, email, role, limited, groups, teams, made_by from invitation
where token_hash = %(token_hash)s and taken_at is null and cancelled_at is null and expires_at > %(now)s for update;

-- take: somebody has come by it
update invitation set taken_at = %(now)s, taken_by = %(member_id)s, token = null,
  mail_state = case when mail_state = 'waiting' then 'none' else mail_state end, mail_next_at = null
where token_hash = %(token_hash)s;

-- claim_letter: one that is to be mailed, for as long as the lease
update invitation set mail_tries = mail_tries + 1, mail_next_at = %(lease_until)s
where id = (select id from invitation where workspace_id = %(workspace_id)s and mail_state = 'waiting' and mail_next_at <= %(now)s
  order by mail_next_at limit 1 for update skip locked) and workspace_id = %(workspace_id)s
returning id, email, token, role, made_by, made_at, expires_at, mail_tries;

-- set_mailed: what became of the letter
update invitation set mail_state = %(state)s, mail_problem = %(problem)s, mail_next_at = %(next_at)s
where workspace_id = %(workspace_id)s and id = %(id)s and mail_state = 'waiting';
