-- add_outgoing: a reply on its way, committed together with the act
insert into outbox (workspace_id, account_id, conversation_id, message_id, key, target, recipient, state,
  queued_at, not_before, leaves_at, what, member_id)
values (%(workspace_id)s, %(account_id)s, %(conversation_id)s, %(message_id)s, %(key)s, %(target)s,
  %(recipient)s, 'queued', %(now)s, %(not_before)s, %(not_before)s, %(what)s, %(member_id)s)
returning id;

-- withdraw_outgoing: takes a reply or an act back while it is not being delivered and the network cannot have it
update outbox set state = 'withdrawn'
where workspace_id = %(workspace_id)s and message_id = %(message_id)s and what = %(what)s
  and (state = 'queued' or (state = 'waiting' and not maybe_out))
returning id;

-- get_state: where a reply stands on its way
select state, maybe_out from outbox where workspace_id = %(workspace_id)s and message_id = %(message_id)s and what = 'reply';

-- find_open: who asked the network for the same act, of this message or of this person, and it is still under way
select coalesce(b.name, 'A rule') from outbox o join conversation c on c.id = o.conversation_id left join member b on b.id = o.member_id
where o.workspace_id = %(workspace_id)s and o.state in ('queued', 'sending', 'waiting') and o.what = %(what)s
  and (o.message_id = %(message_id)s or (%(what)s in ('block', 'unblock') and c.person_id = %(person_id)s)) limit 1;

-- lock_accounts: the accounts that entries go out through; nobody else claims for them until the transaction ends
select o.id as outbox_id, a.id, a.network, a.silent_since, a.ask_again_at from outbox o join account a on a.id = o.account_id
where o.workspace_id = %(workspace_id)s and o.id = any(%(ids)s) order by a.id for no key update of a;

-- get_pace: how much of an account is being sent, and when its network was asked lately; asked after the account is locked, so that no
-- claim goes unseen
select (select count(*) from outbox where workspace_id = %(workspace_id)s and account_id = %(account_id)s and state = 'sending'
    and claimed_at > %(lease_until)s) as under_way,
  coalesce((select array_agg(tried_at) from outbox where workspace_id = %(workspace_id)s and account_id = %(account_id)s
    and tried_at > %(since)s), '{}') as tried;

-- put_off: not before the network's limit allows it
update outbox set not_before = %(at)s
where workspace_id = %(workspace_id)s and id = %(id)s and state in ('queued', 'waiting') and not_before < %(at)s;

-- claim_outgoing: takes a reply for delivery, or again when whoever had it has fallen silent. Replies of one
-- conversation go out in their order; a paused account keeps all of its own, a held workspace everything.
update outbox o set state = 'sending', claimed_at = %(now)s, tried_at = %(now)s, attempts = o.attempts + 1
from message m, account a, workspace w
where o.workspace_id = %(workspace_id)s and o.id = %(id)s and m.id = o.message_id and a.id = o.account_id
  and w.id = o.workspace_id and w.held_at is null and a.paused_reason is null and o.not_before <= %(now)s
  and (o.state in ('queued', 'waiting') or (o.state = 'sending' and o.claimed_at < %(lease_until)s))
  and not exists (select from outbox e where e.conversation_id = o.conversation_id and e.id < o.id
    and e.state in ('queued', 'sending', 'waiting'))
returning o.id, o.account_id, o.conversation_id, o.message_id, o.key, o.target, o.recipient, o.attempts,
  o.queued_at, o.leaves_at, o.stuck, o.what, m.public, m.body, m.attachments, coalesce(o.member_id, m.member_id) as member_id;

-- set_outgoing: where a claimed reply stands after a try; nothing happens if another claim has overtaken it
update outbox set state = %(state)s, problem = %(problem)s, not_before = coalesce(%(not_before)s, not_before),
  claimed_at = null, maybe_out = maybe_out or %(maybe_out)s
where workspace_id = %(workspace_id)s and id = %(id)s and state = 'sending' and attempts = %(attempts)s
returning id;

-- set_delivered: it is out, a reply under the network's name for it; nothing happens if another claim has overtaken it
with ended as (
  update outbox set state = 'delivered', problem = null, claimed_at = null
  where workspace_id = %(workspace_id)s and id = %(id)s and state = 'sending' and attempts = %(attempts)s
  returning id, message_id, what
), named as (
  update message m set external_id = %(external_id)s, sent_at = %(at)s from ended e
  where m.workspace_id = %(workspace_id)s and m.id = e.message_id and e.what = 'reply'
)
select id from ended;

-- list_deliverable: what could go out now, for the clock that picks up what a dead worker left: some of each account, and one to
-- ask a silent network with
select x.id from (
  select o.id, a.silent_since, row_number() over (partition by o.account_id order by o.id) as n
  from outbox o join account a on a.id = o.account_id join workspace w on w.id = o.workspace_id
  where o.workspace_id = %(workspace_id)s and w.held_at is null and a.paused_reason is null and o.not_before <= %(now)s
    and (a.silent_since is null or a.ask_again_at <= %(now)s)
    and (%(account_id)s::bigint is null or o.account_id = %(account_id)s)
    and (o.state in ('queued', 'waiting') or (o.state = 'sending' and o.claimed_at < %(lease_until)s))
    and not exists (select from outbox e where e.conversation_id = o.conversation_id and e.id < o.id
      and e.state in ('queued', 'sending', 'waiting'))
) x where x.n <= case when x.silent_since is null then %(most)s else 1 end order by x.id;

-- list_late: replies that should be outside and are not, nobody having been told yet, with what holds them up
select o.id, o.conversation_id, o.message_id, o.account_id, o.attempts, o.leaves_at, o.problem, a.network, a.name as account_name,
  a.paused_reason, a.silent_since, case when w.held_at is not null then w.held_reason end as held_reason, coalesce(o.member_id, m.member_id) as member_id
from outbox o join message m on m.id = o.message_id join account a on a.id = o.account_id join workspace w on w.id = o.workspace_id
where o.workspace_id = %(workspace_id)s and o.state in ('queued', 'sending', 'waiting') and o.stuck is null
  and o.what = 'reply' and o.leaves_at <= %(now)s and (%(id)s::bigint is null or o.id = %(id)s)
order by o.id limit 500;

-- set_stuck: why a reply is not out, said once; nothing where it has gone, or been told of, meanwhile
update outbox set stuck = %(reason)s
where workspace_id = %(workspace_id)s and id = %(id)s and state in ('queued', 'sending', 'waiting') and stuck is null
returning id;

-- list_stuck: the accounts that answers wait for beyond their time, since when, how many and why
select o.account_id, a.name, a.network, min(o.leaves_at) as since, count(*) as answers, max(o.stuck) as reason,
  bool_or(a.paused_reason is not null) as is_paused, bool_or(w.held_at is not null) as is_held
from outbox o join account a on a.id = o.account_id join workspace w on w.id = o.workspace_id
where o.workspace_id = %(workspace_id)s and o.state in ('queued', 'sending', 'waiting') and o.stuck is not null
group by o.account_id, a.name, a.network order by since;

-- list_next_of: of each conversation the first that waits to go out
select distinct on (conversation_id) conversation_id, id, account_id, not_before from outbox
where workspace_id = %(workspace_id)s and conversation_id = any(%(conversation_ids)s) and state in ('queued', 'waiting')
order by conversation_id, id;
