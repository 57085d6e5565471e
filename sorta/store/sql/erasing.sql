-- list_records: a person's record and all that were joined into it
with recursive r as (
  select id, name, erased_at, joined_to from person where workspace_id = %(workspace_id)s and id = %(id)s
  union select p.id, p.name, p.erased_at, p.joined_to from person p join r on p.joined_to = r.id where p.workspace_id = %(workspace_id)s
)
select id, name, erased_at, joined_to from r order by id;

-- list_conversations: what was said by and to these people
select id from conversation where workspace_id = %(workspace_id)s and person_id = any(%(people)s) order by id;

-- list_names: what these people are known by on the networks
select distinct handle from identity where workspace_id = %(workspace_id)s and person_id = any(%(people)s) and handle <> '';

-- list_unfinished: what is still to go out to them or waits for somebody, with the conversation it is about
select c.id, w.why from conversation c cross join lateral (
  select 'answer' as why where exists (select from outbox o where o.conversation_id = c.id and o.state in ('queued', 'sending', 'waiting'))
  union all select 'consent' where exists (select from proposal p where p.conversation_id = c.id and p.state = 'waiting')
  union all select 'later' where exists (select from scheduled_reply s where s.conversation_id = c.id and s.state = 'waiting')
  union all select 'case' where exists (select from support_case s where s.conversation_id = c.id and (s.state = 'opening' or s.next_at is not null))
  union all select 'advice' where exists (select from advice a where a.conversation_id = c.id and a.state in ('sending', 'asked'))
) w where c.workspace_id = %(workspace_id)s and c.id = any(%(ids)s) order by c.id, w.why;

-- is_heard_of: whether something was said since in these conversations, or one of them is open
select exists (select from conversation where workspace_id = %(workspace_id)s and id = any(%(ids)s) and (move <> 'settled' or last_at >= %(before)s));

-- count_all: what there is of people, by what it is
select
  (select count(*) from message where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s)) as messages,
  (select count(*) from trail where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s) and kind = 'noted') as notes,
  (select count(*) from attachment where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s)) as files,
  (select count(*) from translation t join message m on m.id = t.message_id
   where t.workspace_id = %(workspace_id)s and m.conversation_id = any(%(ids)s)) as translations,
  (select count(*) from person_fact where workspace_id = %(workspace_id)s and person_id = any(%(people)s)) as facts,
  (select count(*) from follow_up where workspace_id = %(workspace_id)s and person_id = any(%(people)s)) as follow_ups,
  (select count(*) from support_case where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s)) as cases,
  (select count(*) from advice where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s)) as questions,
  (select count(distinct d.id) from draw d join conversation c on c.post_id = d.post_id
   where d.workspace_id = %(workspace_id)s and c.id = any(%(ids)s) and d.closed_at is not null) as draws;

-- list_mentioning: conversations of others in whose words one of their names stands
select id from (
  select conversation_id as id from message where workspace_id = %(workspace_id)s and body ~* %(pattern)s
  union select conversation_id from trail where workspace_id = %(workspace_id)s and data ?| %(keys)s and data::text ~* %(pattern)s
) m where id <> all(%(ids)s) order by id;

-- lock_all: conversations in the order of intake, until the transaction ends
select id from conversation where workspace_id = %(workspace_id)s and id = any(%(ids)s) order by person_id, thread_key for no key update;

-- unname_messages: their names out of what others said
update message set body = regexp_replace(body, %(pattern)s, 'erased', 'gi'), words = null
where workspace_id = %(workspace_id)s and conversation_id = any(%(others)s) and body ~* %(pattern)s;

-- unname_conversations: their names out of the lines that lists show
update conversation set preview = regexp_replace(preview, %(pattern)s, 'erased', 'gi')
where workspace_id = %(workspace_id)s and id = any(%(others)s) and preview ~* %(pattern)s;

-- unname_translations: what was made of those words is made again when asked for
delete from translation t using message m where t.workspace_id = %(workspace_id)s and m.id = t.message_id
  and m.conversation_id = any(%(others)s) and t.body ~* %(pattern)s;

-- unname_trail: their names out of notes and earlier words of others
select erase_in_trail(%(workspace_id)s, %(others)s, %(keys)s, %(pattern)s);

-- erase_links: short links that stand in nothing but what was said to them, with their clicks
with said as (
  select l.id from link l where l.workspace_id = %(workspace_id)s
    and exists (select from message m where m.workspace_id = %(workspace_id)s and m.conversation_id = any(%(ids)s) and not m.inbound
      and strpos(m.body, l.slug) > 0)
    and not exists (select from message m where m.workspace_id = %(workspace_id)s and m.conversation_id <> all(%(ids)s) and not m.inbound
      and strpos(m.body, l.slug) > 0)
), clicked as (delete from click k using said where k.workspace_id = %(workspace_id)s and k.link_id = said.id returning 1)
delete from link l using said where l.id = said.id and (select count(*) from clicked) >= 0;

-- erase_aside: deliveries that were kept aside, where one of them wrote or is named
delete from aside a using identity i where a.workspace_id = %(workspace_id)s and i.workspace_id = %(workspace_id)s
  and i.person_id = any(%(people)s) and (strpos(a.body, to_json(i.external_id)::text) > 0 or (i.handle <> '' and strpos(a.body, to_json(i.handle)::text) > 0));

-- erase_early: what came of their messages before those did
delete from early_change e using message m where e.workspace_id = %(workspace_id)s and m.workspace_id = %(workspace_id)s
  and m.conversation_id = any(%(ids)s) and e.account_id = m.account_id and e.external_id = m.external_id;

-- erase_posts: posts of their own, that came with what they wrote
update post p set title = '', body = '', url = null, author = null, external_id = make_erased(p.external_id)
where p.workspace_id = %(workspace_id)s and exists (select from conversation c where c.post_id = p.id and c.id = any(%(ids)s))
  and p.author in (select name from identity where workspace_id = %(workspace_id)s and person_id = any(%(people)s));

-- erase_translations: what was made of their words and ours
delete from translation t using message m where t.workspace_id = %(workspace_id)s and m.id = t.message_id and m.conversation_id = any(%(ids)s);

-- erase_corrections: what was learned from the words, which are gone
delete from correction t using message m where t.workspace_id = %(workspace_id)s and m.id = t.message_id and m.conversation_id = any(%(ids)s);

-- erase_messages: the words; what they read as stays, for it is counted
update message set body = '', words = '', url = null, in_reply_to = null, attachments = '[]',
  external_id = case when external_id is not null then make_erased(external_id) end,
  evidence = evidence || '{"words": {}, "sentiment_words": [], "links": []}'
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_conversations: who it was; from here on nothing is done with them any more
update conversation set person_name = %(name)s, handle = '', preview = '', thread_key = 'erased:' || id, erased_at = %(now)s
where workspace_id = %(workspace_id)s and id = any(%(ids)s);

-- erase_trail: the words of their trails
select erase_in_trail(%(workspace_id)s, %(ids)s, %(keys)s, null);

-- erase_proposals: what was proposed to be said
update proposal set body = '', before_edit = case when before_edit is not null then '' end, reason = case when reason is not null then '' end,
  extras = '{}', needs = coalesce((select jsonb_agg(n || '{"words": []}' order by o) from jsonb_array_elements(needs) with ordinality as e(n, o)), '[]')
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_scheduled: what was to be said later
update scheduled_reply set body = '', extras = '{}', problem = case when problem is not null then '' end
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_outbox: where it went
update outbox set target = '', recipient = '', problem = null
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_drafts: what somebody has begun to write
delete from draft where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_cases: what a support desk said, and by what it is known there
update support_case set note = null, reference = null, external_id = null, url = null, problem = null
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_remarks: what was said at a support desk
delete from case_remark r using support_case c where r.workspace_id = %(workspace_id)s and c.id = r.case_id and c.conversation_id = any(%(ids)s);

-- erase_advice: what was asked of people outside; a letter that comes late finds nothing
update advice set question = '', problem = null, token = 'erased:' || id where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_advice_answers: what people outside said
delete from advice_answer n using advice a where n.workspace_id = %(workspace_id)s and a.id = n.advice_id and a.conversation_id = any(%(ids)s);

-- erase_alerts: what members were told
delete from alert where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_told: what programs were told
delete from hook_event where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_hits: the words by which rules met them
update rule_hit set evidence = '[]' where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s);

-- erase_trials: trials of rules that have read what they said, and show words of it; they are made again when asked for
delete from rule_trial t where t.workspace_id = %(workspace_id)s and exists (select from message m where m.workspace_id = %(workspace_id)s
  and m.conversation_id = any(%(ids)s) and m.arrived_at >= t.made_at - make_interval(days => t.days + 1));

-- erase_facts: what the team has saved
delete from person_fact where workspace_id = %(workspace_id)s and person_id = any(%(people)s);

-- erase_follow_ups: what was to be done about them
delete from follow_up where workspace_id = %(workspace_id)s and person_id = any(%(people)s);

-- erase_marks: what belonged to them alone
delete from person_mark where workspace_id = %(workspace_id)s and person_id = any(%(people)s);

-- erase_person_tags: what they were tagged with
delete from person_tag where workspace_id = %(workspace_id)s and person_id = any(%(people)s);

-- erase_joins: what was moved when records were joined
delete from person_join where workspace_id = %(workspace_id)s and (kept_id = any(%(people)s) or gone_id = any(%(people)s));

-- erase_reactions: likes stay as numbers
update reaction r set external_id = make_erased(r.external_id) from identity i
where r.workspace_id = %(workspace_id)s and i.id = r.identity_id and i.person_id = any(%(people)s);

-- erase_identities: what they are called on networks; somebody who comes back is somebody new
update identity set external_id = 'erased:' || id, handle = '', name = %(name)s, folded = null, reach = null, look = 'erased:' || id
where workspace_id = %(workspace_id)s and person_id = any(%(people)s);

-- erase_people: the records themselves
update person set name = %(name)s, erased_at = %(now)s, blocked = false, points = 0, points_at = null, standing = null
where workspace_id = %(workspace_id)s and id = any(%(people)s);

-- erase_log: the security log named them when their things were exported
select erase_in_log(%(workspace_id)s, %(people)s);

-- mark_accounts: from now on what comes by these accounts is compared with what was erased
update account set has_erased = true where workspace_id = %(workspace_id)s and not has_erased
  and id in (select account_id from conversation where workspace_id = %(workspace_id)s and id = any(%(ids)s)
    union select r.account_id from reaction r join identity i on i.id = r.identity_id where r.workspace_id = %(workspace_id)s and i.person_id = any(%(people)s));

-- take_files: what files of theirs contain, by its hash, taken away with their rows
delete from attachment where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s) returning sha256;

-- add_erasure: that it was done, by whom, and how much went
insert into erasure (workspace_id, person_id, counts, made_by, made_at)
values (%(workspace_id)s, %(id)s, %(counts)s, %(member_id)s, %(now)s);

-- list_come_back: of these names of things at a network, those that were erased
select x.name from unnest(%(names)s::text[]) as x(name) where exists (select from message m where m.workspace_id = %(workspace_id)s
    and m.account_id = %(account_id)s and m.external_id = make_erased(x.name))
  or exists (select from reaction r where r.workspace_id = %(workspace_id)s and r.account_id = %(account_id)s and r.external_id = make_erased(x.name));

-- tell_messages: everything said by and to people, oldest first, with what was made of it
select c.id as conversation_id, c.network, m.kind, m.inbound, m.public, m.body, m.url, m.sent_at, m.edited_at, m.removed_at, m.rating,
  m.language, m.sentiment, m.reads_as, (select coalesce(json_agg(json_build_object('media_type', f ->> 'media_type', 'name', f ->> 'name')), '[]')
    from jsonb_array_elements(m.attachments) f) as files,
  (select coalesce(json_agg(json_build_object('language', t.language, 'body', t.body) order by t.id), '[]')
    from translation t where t.message_id = m.id) as translations
from message m join conversation c on c.id = m.conversation_id
where c.workspace_id = %(workspace_id)s and c.person_id = any(%(people)s) order by m.sent_at, m.id;

-- tell_trail: what happened to their conversations, with what members wrote about them
select t.conversation_id, t.seq, t.kind, t.at, t.data from trail t
where t.workspace_id = %(workspace_id)s and t.conversation_id = any(%(ids)s) order by t.conversation_id, t.seq;

-- tell_proposals: what was proposed to be said to them
select conversation_id, public, body, before_edit, reason, state, made_at, decided_at from proposal
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s) order by id;

-- tell_scheduled: what was to be said to them later
select conversation_id, public, body, state, send_at, made_at from scheduled_reply
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s) order by id;

-- tell_cases: what was handed over to support desks, and what those said
select s.conversation_id, d.name as desk, s.reference, s.state, s.opened_at, s.note,
  (select coalesce(json_agg(json_build_object('by', r.by_name, 'text', r.text, 'at', r.at) order by r.at), '[]') from case_remark r where r.case_id = s.id) as remarks
from support_case s join support_desk d on d.id = s.desk_id
where s.workspace_id = %(workspace_id)s and s.conversation_id = any(%(ids)s) order by s.id;

-- tell_questions: what people outside were asked about them, and what those said
select a.conversation_id, a.question, a.asked_at,
  (select coalesce(json_agg(json_build_object('text', n.own, 'at', n.at) order by n.at), '[]') from advice_answer n where n.advice_id = a.id) as answers
from advice a where a.workspace_id = %(workspace_id)s and a.conversation_id = any(%(ids)s) order by a.id;

-- tell_reactions: what they reacted to
select i.network, r.object_id, r.at from reaction r join identity i on i.id = r.identity_id
where r.workspace_id = %(workspace_id)s and i.person_id = any(%(people)s) order by r.at;

-- tell_marks: mail addresses and numbers they are known by
select kind, value from person_mark where workspace_id = %(workspace_id)s and person_id = any(%(people)s) order by kind, value;
