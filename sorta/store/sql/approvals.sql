-- list_policies: the policies
select id, switched_on, body, changed_by, changed_at from policy
where workspace_id = %(workspace_id)s and removed_at is null order by id;

-- add_policy: a new policy
insert into policy (workspace_id, switched_on, body, changed_by, changed_at)
values (%(workspace_id)s, %(on)s, %(body)s, %(member_id)s, %(now)s) returning id;

-- set_policy: a policy as it is from now on
update policy set switched_on = %(on)s, body = %(body)s, changed_by = %(member_id)s, changed_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning id;

-- remove_policy: takes a policy away
update policy set removed_at = %(now)s, changed_by = %(member_id)s
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning body->>'name';

-- get_asked: what policies ask of the conversation a reply stands in
select m.reads_as, i.reach from message m left join identity i on i.id = m.identity_id
where m.workspace_id = %(workspace_id)s and m.conversation_id = %(conversation_id)s and m.inbound
order by m.sent_at desc, m.id desc limit 1;

-- add_proposal: a reply that waits for consent
insert into proposal (workspace_id, conversation_id, author_id, public, body, settle, extras, state, made_at, seen_seq, needs)
values (%(workspace_id)s, %(conversation_id)s, %(author_id)s, %(public)s, %(body)s, %(settle)s, %(extras)s, 'waiting', %(now)s,
  %(seen_seq)s, %(needs)s) returning id;

-- lock_conversation: the conversation it hangs on, until the transaction ends; locked before the row itself, as everywhere
select c.id from conversation c join proposal x on x.conversation_id = c.id
where x.workspace_id = %(workspace_id)s and x.id = %(id)s and c.workspace_id = %(workspace_id)s for update of c;

-- get_proposal: one proposal, until the transaction ends
select id, conversation_id, author_id, public, body, settle, extras, state, made_at, seen_seq, needs, consents, asked, before_edit,
  edited_by, reason, decided_by, decided_at, message_id
from proposal where workspace_id = %(workspace_id)s and id = %(id)s for update;

-- set_proposal: a proposal as it is now
update proposal set body = %(body)s, state = %(state)s, seen_seq = %(seen_seq)s, needs = %(needs)s, consents = %(consents)s,
  asked = %(asked)s, before_edit = %(before_edit)s, edited_by = %(edited_by)s, reason = %(reason)s, decided_by = %(decided_by)s,
  decided_at = %(decided_at)s, message_id = %(message_id)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_waiting: what waits for consent, soonest due first
select p.id, p.conversation_id, p.author_id, p.public, p.body, p.settle, p.extras, p.made_at, p.seen_seq, p.needs, p.consents, p.asked,
  p.before_edit, p.edited_by, c.person_name, c.network, c.account_id, c.kind, c.tags, c.priority, c.due, c.last_inbound_seq,
  c.preview, c.reads_as, c.standing, c.seq
from proposal p join conversation c on c.id = p.conversation_id
where p.workspace_id = %(workspace_id)s and p.state = 'waiting' order by c.sort_due, c.sort_rank, p.id limit 300;

-- get_latest: the latest proposal of a conversation
select id, author_id, public, body, settle, extras, state, made_at, seen_seq, needs, consents, asked, before_edit, edited_by, reason,
  decided_by, decided_at from proposal
where workspace_id = %(workspace_id)s and conversation_id = %(conversation_id)s order by id desc limit 1;

-- list_needed: the consents that waiting proposals need, for counting what waits for a member
select author_id, needs, consents, public, body, extras from proposal where workspace_id = %(workspace_id)s and state = 'waiting' limit 500;

-- list_to_ask_anew: waiting proposals with somebody asked whose time is over, or who is away
select p.id from proposal p where p.workspace_id = %(workspace_id)s and p.state = 'waiting' and exists (
  select from jsonb_to_recordset(p.asked) as a (member bigint, until timestamptz) where a.until <= %(now)s::timestamptz
    or exists (select from availability v where v.workspace_id = p.workspace_id and v.member_id = a.member
      and v.away_from <= %(now)s::timestamptz and (v.away_until is null or v.away_until > %(now)s::timestamptz)))
order by p.id limit 200;

-- list_away: members who are away now
select member_id from availability where workspace_id = %(workspace_id)s and away_from <= %(now)s
  and (away_until is null or away_until > %(now)s);

-- get_share: after which share of the time left the next is asked
select ask_next_after from workspace where id = %(workspace_id)s;

-- set_share: another share
update workspace set ask_next_after = %(share)s where id = %(workspace_id)s;

-- list_sent: what members have answered since, the latest first, each with what policies ask of it
select m.id, m.conversation_id, m.member_id, m.public, m.body, m.sent_at, c.account_id, c.tags, c.priority, c.person_name, c.network,
  t.reads_as, t.reach
from message m join conversation c on c.id = m.conversation_id
left join lateral (select a.reads_as, i.reach from message a left join identity i on i.id = a.identity_id
  where a.conversation_id = m.conversation_id and a.inbound and a.sent_at <= m.sent_at
  order by a.sent_at desc, a.id desc limit 1) t on true
where m.workspace_id = %(workspace_id)s and not m.inbound and m.member_id is not null and m.sent_at >= %(since)s
order by m.sent_at desc, m.id desc limit %(limit)s;
