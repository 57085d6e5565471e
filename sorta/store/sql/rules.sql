-- list_rules: the rules in their order, with how often each was met since and when last
select r.id, r.position, r.switched_on, r.version, r.body, r.owner_id, r.changed_by, r.changed_at, r.off_reason, r.answers_off_at,
  h.hits, h.last_at
from rule r left join lateral (select count(*) as hits, max(x.at) as last_at from rule_hit x
  where x.rule_id = r.id and x.at >= %(since)s) h on true
where r.workspace_id = %(workspace_id)s and r.removed_at is null order by r.position, r.id;

-- list_active: the rules that are switched on, in their order, those that answer with a saved reply with its language
select id, version, body, answers_off_at is null as answers,
  coalesce((select jsonb_object_agg(s.id, s.body->'language') from saved_reply s where s.workspace_id = rule.workspace_id
    and s.id in (select (a->>'saved')::bigint from jsonb_array_elements(rule.body->'then') a where a->>'saved' is not null)), '{}') as spoken
from rule
where workspace_id = %(workspace_id)s and removed_at is null and switched_on order by position, id;

-- get_rule: one rule, until the transaction ends
select id, position, switched_on, version, body, owner_id, changed_by, changed_at, off_reason, answers_off_at from rule
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null for update;

-- add_rule: a new rule at the bottom
insert into rule (workspace_id, position, switched_on, version, body, owner_id, changed_by, changed_at)
select %(workspace_id)s, coalesce(max(position), 0) + 1, %(switched_on)s, 1, %(body)s, %(member_id)s, %(member_id)s, %(now)s
from rule where workspace_id = %(workspace_id)s returning id;

-- set_rule: a rule as it is from now on
update rule set body = %(body)s, switched_on = %(switched_on)s, version = version + 1, changed_by = %(member_id)s,
  changed_at = %(now)s, off_reason = case when %(answers)s then null else off_reason end,
  answers_off_at = case when %(answers)s then null else answers_off_at end,
  answers_since = case when %(answers)s then %(now)s else answers_since end
where workspace_id = %(workspace_id)s and id = %(id)s returning version;

-- stop_answers: a rule that answered too often answers no more
update rule set answers_off_at = %(now)s, off_reason = %(reason)s
where workspace_id = %(workspace_id)s and id = %(id)s and answers_off_at is null returning version;

-- add_version: keeps a version of a rule
insert into rule_version (rule_id, version, workspace_id, body, switched_on, member_id, at)
select id, version, workspace_id, body, switched_on, %(member_id)s, %(now)s from rule
where workspace_id = %(workspace_id)s and id = %(id)s on conflict do nothing;

-- list_versions: the versions of a rule, newest first
select version, body, switched_on, member_id, at from rule_version
where workspace_id = %(workspace_id)s and rule_id = %(id)s order by version desc limit 100;

-- remove_rule: takes a rule away; what it did stays explained
update rule set removed_at = %(now)s, switched_on = false, changed_by = %(member_id)s, changed_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning id;

-- set_order: the rules in this order
update rule r set position = o.place from unnest(%(ids)s::bigint[]) with ordinality as o(id, place)
where r.workspace_id = %(workspace_id)s and r.id = o.id;

-- touch_rules: every process reads the rules anew with its next message
update workspace set rules_version = rules_version + 1 where id = %(workspace_id)s returning rules_version;

-- list_groups_of: the account groups that accounts are in
select g.id, a as account_id from account_group g, unnest(g.accounts) a where g.workspace_id = %(workspace_id)s;

-- list_hit_conversations: the conversations that a rule was met in since, the latest first
select conversation_id from rule_hit where workspace_id = %(workspace_id)s and rule_id = %(rule_id)s and at >= %(since)s
group by conversation_id order by max(at) desc limit %(limit)s;

-- get_example: the last message of theirs in a conversation, and what a rule can ask of it
select m.kind, m.body, m.reads_as, m.evidence, m.rating, m.attachments <> '[]' as has_attachment,
  coalesce(p.is_ad, false) as is_on_ad, coalesce(array(select t.tag_id from person_tag t where t.person_id = c.person_id order by t.tag_id), '{}') as person_tags
from conversation c join lateral (select * from message x where x.workspace_id = c.workspace_id and x.conversation_id = c.id and x.inbound
  and x.removed_at is null order by x.sent_at desc, x.id desc limit 1) m on true
left join post p on p.id = c.post_id
where c.workspace_id = %(workspace_id)s and c.id = %(conversation_id)s;

-- add_hits: what rules did to messages
insert into rule_hit (workspace_id, rule_id, version, conversation_id, message_id, at, evidence, effects, lost)
select %(workspace_id)s, h.rule_id, h.version, h.conversation_id, h.message_id, h.at, h.evidence, h.effects, h.lost
from jsonb_populate_recordset(null::rule_hit, %(hits)s) h;

-- lock_person: no other rule answers this person until the transaction ends
select pg_advisory_xact_lock(hashtextextended('auto_answer', %(person_id)s)) is null as locked;

-- lock_rule: whether a rule still answers; nobody else counts its answers until the transaction ends
select switched_on and answers_off_at is null from rule where workspace_id = %(workspace_id)s and id = %(rule_id)s for no key update;

-- count_answers: the automatic answers that bear on one more; after `lock_rule`, for a statement that waits for a
-- lock goes on counting what it saw before
select (select count(*) from auto_answer a where a.conversation_id = %(conversation_id)s) as in_conversation,
  (select count(*) from auto_answer a where a.person_id = %(person_id)s and a.at > %(day_ago)s
    and a.at <= %(now)s) as to_person,
  (select count(*) from auto_answer a where a.rule_id = %(rule_id)s and a.at > greatest(%(lately)s, r.answers_since)
    and a.at <= %(now)s) as by_rule
from rule r where r.workspace_id = %(workspace_id)s and r.id = %(rule_id)s;

-- get_author: what rules must know of an author and a conversation before they do anything outside
select
  exists (select from message m where m.workspace_id = %(workspace_id)s and m.conversation_id = %(conversation_id)s and not m.inbound
    and m.rule_id is null and not exists (select from outbox o where o.message_id = m.id and o.what = 'reply'
      and o.state in ('refused', 'withdrawn'))) as is_answered,
  exists (select from presence p where p.workspace_id = %(workspace_id)s and p.conversation_id = %(conversation_id)s
    and p.doing = 'writing' and p.at > %(present)s) as is_writing,
  exists (select from conversation c where c.workspace_id = %(workspace_id)s and c.person_id = %(person_id)s
    and c.settled_as = 'junk') as has_junk,
  exists (select from conversation c join message m on m.conversation_id = c.id where c.workspace_id = %(workspace_id)s
    and c.person_id = %(person_id)s and m.hidden) as has_hidden;

-- list_stoppable: the answers of rules in a conversation that are not out yet, with their act in the trail
select m.id as message_id, t.seq from message m
join trail t on t.conversation_id = m.conversation_id and t.kind = 'replied' and t.data->'message' = to_jsonb(m.id)
join outbox o on o.message_id = m.id and o.what = 'reply'
where m.workspace_id = %(workspace_id)s and m.conversation_id = %(conversation_id)s and m.rule_id is not null
  and o.state in ('queued', 'waiting') order by m.id;

-- add_answer: one automatic answer more
insert into auto_answer (workspace_id, rule_id, conversation_id, person_id, message_id, at)
values (%(workspace_id)s, %(rule_id)s, %(conversation_id)s, %(person_id)s, %(message_id)s, %(now)s);

-- list_review: what rules hid, answered or settled and nobody has looked at yet, newest first
select h.id, h.rule_id, h.version, h.conversation_id, h.message_id, h.at, h.evidence, h.effects, r.body->>'name' as rule_name,
  c.person_name, c.network, c.kind, c.public, c.move, m.body, m.hidden, m.removed_at is not null as removed,
  (select a.body from message a where a.rule_id = h.rule_id and a.conversation_id = h.conversation_id
    and a.arrived_at >= h.at order by a.id limit 1) as answer
from rule_hit h join rule r on r.id = h.rule_id join conversation c on c.id = h.conversation_id
join message m on m.id = h.message_id
where h.workspace_id = %(workspace_id)s and h.reviewed_at is null and h.to_review
order by h.at desc, h.id desc limit %(limit)s;

-- count_review: how much waits to be looked at
select count(*) from (select from rule_hit where workspace_id = %(workspace_id)s and reviewed_at is null and to_review limit 1000) h;

-- get_hit: one thing a rule did
select h.id, h.conversation_id, h.message_id, h.effects, h.reviewed_at, m.hidden from rule_hit h
join message m on m.id = h.message_id where h.workspace_id = %(workspace_id)s and h.id = %(id)s;

-- set_reviewed: a member has looked at what rules did; two who do so at once wait for each other and not across
with waiting as (
  select id from rule_hit where workspace_id = %(workspace_id)s and id = any(%(ids)s) and reviewed_at is null
  order by id for no key update
)
update rule_hit h set reviewed_by = %(member_id)s, reviewed_at = %(now)s, verdict = %(verdict)s
from waiting w where h.id = w.id and h.workspace_id = %(workspace_id)s;

-- look_again: what the member left as it is waits to be looked at once more
update rule_hit set reviewed_by = null, reviewed_at = null, verdict = null
where workspace_id = %(workspace_id)s and id = %(id)s and reviewed_by = %(member_id)s and verdict = 'kept' returning id;

-- list_heard: messages of the past as rules see them, in their order of arrival
select m.id, m.conversation_id, c.person_id, m.kind, c.network, m.account_id, m.body, m.arrived_at, m.language, m.sentiment,
  m.reads_as, m.evidence, m.rating, m.attachments <> '[]' as has_attachment, c.post_id, i.reach, p.standing,
  coalesce(i.automatic, false) as automatic, coalesce(po.is_ad, false) as on_ad, a.handle as own_handle, p.blocked,
  not exists (select from message e where e.conversation_id = m.conversation_id and e.inbound
    and (e.sent_at, e.id) < (m.sent_at, m.id)) as first_message,
  exists (select from message e where e.conversation_id = m.conversation_id and not e.inbound and e.rule_id is null
    and e.sent_at < m.sent_at) as answered,
  array(select t.tag_id from person_tag t where t.person_id = c.person_id and t.workspace_id = %(workspace_id)s) as person_tags
from message m join conversation c on c.id = m.conversation_id join person p on p.id = c.person_id
join account a on a.id = m.account_id left join identity i on i.id = m.identity_id left join post po on po.id = c.post_id
where m.workspace_id = %(workspace_id)s and m.inbound and m.arrived_at >= %(since)s and m.arrived_at < %(until)s
  and (m.arrived_at, m.id) > (%(after_at)s::timestamptz, %(after_id)s::bigint)
order by m.arrived_at, m.id limit %(limit)s;

-- count_heard: how many messages came in within a time
select count(*) from message m where m.workspace_id = %(workspace_id)s and m.inbound
  and m.arrived_at >= %(since)s and m.arrived_at < %(until)s;

-- add_trial: rules to be tried on the past
insert into rule_trial (workspace_id, member_id, rules, rule_id, days, made_at, state)
values (%(workspace_id)s, %(member_id)s, %(rules)s, %(rule_id)s, %(days)s, %(now)s, 'waiting') returning id;

-- get_trial: one trial of a member
select id, member_id, rules, rule_id, days, made_at, state, done, total, result from rule_trial
where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_trial: how far a trial has come; nothing when it was cancelled
update rule_trial set state = %(state)s, done = %(done)s, total = %(total)s, result = %(result)s
where workspace_id = %(workspace_id)s and id = %(id)s and state not in ('cancelled', 'done') returning id;

-- cancel_trial: a trial that nobody waits for any more
update rule_trial set state = 'cancelled' where workspace_id = %(workspace_id)s and id = %(id)s
  and state in ('waiting', 'running') returning id;

-- list_shown: messages of a trial as they are shown
select m.id, m.conversation_id, m.body, m.sentiment, m.reads_as, m.kind, c.person_name, c.network
from message m join conversation c on c.id = m.conversation_id
where m.workspace_id = %(workspace_id)s and m.id = any(%(ids)s);
