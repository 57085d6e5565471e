-- add_outgoing: a reply on its way, committed together with the act
insert into outbox (workspace_id, account_id, conversation_id, message_id, key, target, recipient, state,
  queued_at, not_before, what, member_id)
values (%(workspace_id)s, %(account_id)s, %(conversation_id)s, %(message_id)s, %(key)s, %(target)s,
  %(recipient)s, 'queued', %(now)s, %(not_before)s, %(what)s, %(member_id)s)
returning id;

-- withdraw_outgoing: takes a reply or an act back while nobody has begun to deliver it
update outbox set state = 'withdrawn'
where workspace_id = %(workspace_id)s and message_id = %(message_id)s and what = %(what)s and state = 'queued'
returning id;

-- lock_account: the account that an entry goes out through; nobody else claims for it until the transaction ends
select a.id, a.network from outbox o join account a on a.id = o.account_id
where o.workspace_id = %(workspace_id)s and o.id = %(id)s for no key update of a;

-- list_tried: when the account's network was asked lately
select tried_at from outbox where workspace_id = %(workspace_id)s and account_id = %(account_id)s and tried_at > %(since)s;

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
  o.queued_at, o.what, m.public, m.body, m.attachments, coalesce(o.member_id, m.member_id) as member_id;

-- set_outgoing: where a claimed reply stands after a try; nothing happens if another claim has overtaken it
update outbox set state = %(state)s, problem = %(problem)s, not_before = coalesce(%(not_before)s, not_before),
  claimed_at = null
where workspace_id = %(workspace_id)s and id = %(id)s and state = 'sending' and attempts = %(attempts)s
returning id;

-- set_message_external_id: the network's name for a delivered reply
update message set external_id = %(external_id)s, sent_at = %(at)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_deliverable: replies that could go out now, for the tick that picks up what a dead worker left
select o.id from outbox o join account a on a.id = o.account_id join workspace w on w.id = o.workspace_id
where o.workspace_id = %(workspace_id)s and w.held_at is null and a.paused_reason is null and o.not_before <= %(now)s
  and (o.state in ('queued', 'waiting') or (o.state = 'sending' and o.claimed_at < %(lease_until)s))
order by o.id limit 500;

-- list_next_of: the replies that waited behind this one
select id, not_before from outbox
where workspace_id = %(workspace_id)s and conversation_id = %(conversation_id)s
  and state in ('queued', 'waiting') order by id limit 1;
