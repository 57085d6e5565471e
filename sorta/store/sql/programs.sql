-- list_tokens: the tokens of programs, the newest first
select t.id, t.name, t.ending, t.permissions, t.made_by, m.name as made_by_name, t.made_at, t.expires_at, t.used_at, t.revoked_at
from api_token t join member m on m.id = t.made_by where t.workspace_id = %(workspace_id)s order by t.id desc;

-- add_token: a new one; its hash alone is kept
insert into api_token (workspace_id, name, token_hash, ending, permissions, made_by, made_at, expires_at)
values (%(workspace_id)s, %(name)s, %(token_hash)s, %(ending)s, %(permissions)s, %(member_id)s, %(now)s, %(expires_at)s) returning id;

-- revoke_token: it opens nothing from now on
update api_token set revoked_at = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s and revoked_at is null returning name;

-- find_token: whose a token is, where it still opens anything
select id, name, permissions, made_by, used_at from api_token
where workspace_id = %(workspace_id)s and token_hash = %(token_hash)s and revoked_at is null and expires_at > %(now)s;

-- touch_token: a program has used it
update api_token set used_at = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_hooks: where programs are told, with what waits and what failed
select h.id, h.name, h.url, h.kinds, h.made_by, h.made_at, h.failing_since, h.off_reason,
  (select count(*) from hook_event e where e.hook_id = h.id and e.state = 'waiting') as waiting,
  (select count(*) from hook_event e where e.hook_id = h.id and e.state = 'failed') as failed,
  (select max(e.ended_at) from hook_event e where e.hook_id = h.id and e.state = 'sent') as last_sent_at
from web_hook h where h.workspace_id = %(workspace_id)s and h.removed_at is null order by h.id;

-- add_hook: a new one
insert into web_hook (workspace_id, name, url, secret, kinds, events, made_by, made_at)
values (%(workspace_id)s, %(name)s, %(url)s, %(secret)s, %(kinds)s, %(events)s, %(member_id)s, %(now)s) returning id;

-- set_hook: what it is called, where it is and what it is told of; it is told again where that was switched off
update web_hook set name = %(name)s, url = %(url)s, kinds = %(kinds)s, events = %(events)s, off_reason = null, failing_since = null
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning id;

-- set_hook_secret: another secret; both sign for a while
update web_hook set secret_before = secret, secret = %(secret)s, secret_until = %(until)s
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning name;

-- remove_hook: it is told nothing more, and what waits is not sent
with gone as (delete from hook_event where workspace_id = %(workspace_id)s and hook_id = %(id)s)
update web_hook set removed_at = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning name;

-- claim_event: one that is to be told, for as long as the lease
update hook_event e set next_at = %(lease_until)s, attempts = attempts + 1 from web_hook h
where e.workspace_id = %(workspace_id)s and h.id = e.hook_id and e.id = (
  select d.id from hook_event d join web_hook k on k.id = d.hook_id and k.off_reason is null and k.removed_at is null
  where d.workspace_id = %(workspace_id)s and d.state = 'waiting' and d.next_at <= %(now)s order by d.next_at, d.id limit 1 for update of d skip locked)
returning e.id, e.hook_id, e.conversation_id, e.key, e.event, e.data, e.made_at, e.attempts, h.url, h.secret, h.secret_before, h.secret_until, h.failing_since;

-- set_told: how a try ended
update hook_event set state = %(state)s, next_at = coalesce(%(next_at)s::timestamptz, next_at), problem = %(problem)s,
  ended_at = case when %(state)s = 'waiting' then null else %(now)s::timestamptz end
where workspace_id = %(workspace_id)s and id = %(id)s and state = 'waiting' and attempts = %(attempts)s;

-- set_hook_state: since when a program takes nothing, and why it is told nothing more
update web_hook set failing_since = %(failing_since)s, off_reason = %(off_reason)s
where workspace_id = %(workspace_id)s and id = %(id)s and (failing_since is distinct from %(failing_since)s or off_reason is distinct from %(off_reason)s);

-- list_events: what a program was told or is to be, the newest first
select e.id, e.conversation_id, e.event, e.made_at, e.state, e.attempts, e.ended_at, e.problem,
  case when e.state = 'waiting' then e.next_at end as next_at
from hook_event e where e.workspace_id = %(workspace_id)s and e.hook_id = %(id)s and (%(before)s::bigint is null or e.id < %(before)s)
order by e.id desc limit %(limit)s;

-- tell_again: some of them once more, from the first try: one, or all that failed
update hook_event set state = 'waiting', attempts = 0, next_at = %(now)s, ended_at = null, problem = null
where workspace_id = %(workspace_id)s and hook_id = %(id)s and state <> 'waiting' and (%(event_id)s::bigint is null and state = 'failed' or id = %(event_id)s);
