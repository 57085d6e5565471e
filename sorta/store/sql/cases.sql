-- list_desks: the support desks
select id, name, api_url, follow_hours from support_desk
where workspace_id = %(workspace_id)s and removed_at is null order by lower(name), id;

-- get_desk: one support desk, also one that was removed
select id, name, api_url, token, hook_secret, hook_secret_before, hook_secret_until, follow_hours, removed_at from support_desk
where workspace_id = %(workspace_id)s and id = %(id)s;

-- add_desk: a new support desk
insert into support_desk (workspace_id, name, api_url, token, hook_secret, follow_hours)
values (%(workspace_id)s, %(name)s, %(api_url)s, %(token)s, %(hook_secret)s, %(follow_hours)s) returning id;

-- set_desk: how far apart messages still join one case, and the name
update support_desk set name = %(name)s, follow_hours = %(follow_hours)s
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning id;

-- change_hook_secret: a new secret for what the desk tells; the one before is taken too for a while
update support_desk set hook_secret_before = hook_secret, hook_secret = %(sealed)s, hook_secret_until = %(until)s
where workspace_id = %(workspace_id)s and id = %(id)s and removed_at is null returning name;

-- get_latest: the latest case of a conversation at a desk
select id, desk_id, state, last_passed_at from support_case
where workspace_id = %(workspace_id)s and conversation_id = %(conversation_id)s and (%(desk_id)s::bigint is null or desk_id = %(desk_id)s)
order by id desc limit 1;

-- add_case: a case to be opened
insert into support_case (workspace_id, desk_id, conversation_id, key, state, state_at, note, opened_by, rule_name, opened_at,
  last_passed_at, next_at)
values (%(workspace_id)s, %(desk_id)s, %(conversation_id)s, %(key)s, 'opening', %(now)s, %(note)s, %(member_id)s, %(rule_name)s,
  %(now)s, %(now)s, %(leaves_at)s) returning id;

-- add_messages: messages to be passed on, those of it that are not yet
insert into case_message (case_id, message_id, workspace_id, key)
select %(id)s, m, %(workspace_id)s, gen_random_uuid() from unnest(%(messages)s::bigint[]) m on conflict do nothing;

-- list_passable: all messages of a conversation that can be passed on
select id from message where workspace_id = %(workspace_id)s and conversation_id = %(conversation_id)s and removed_at is null
order by sent_at desc, id desc limit 50;

-- touch_case: something more is to be passed on
update support_case set last_passed_at = greatest(last_passed_at, %(now)s), next_at = coalesce(next_at, %(leaves_at)s)
where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_conversation: the conversation it hangs on, until the transaction ends; locked before the row itself, as everywhere
select c.id from conversation c join support_case x on x.conversation_id = c.id
where x.workspace_id = %(workspace_id)s and x.id = %(id)s and c.workspace_id = %(workspace_id)s for update of c;

-- get_case: one case, until the transaction ends
select c.id, c.desk_id, c.conversation_id, c.key, c.external_id, c.reference, c.state, c.state_at, c.note, c.opened_by, c.rule_name,
  c.opened_at, c.last_passed_at, c.tries, c.next_at, d.api_url, d.token, d.follow_hours, d.name as desk_name
from support_case c join support_desk d on d.id = c.desk_id
where c.workspace_id = %(workspace_id)s and c.id = %(id)s for update of c;

-- find_case: a case by the desk's name for it
select id from support_case where workspace_id = %(workspace_id)s and desk_id = %(desk_id)s and external_id = %(external_id)s;

-- list_unpassed: what is still to be passed on, in order
select m.id, cm.key, m.inbound, m.body, m.sent_at, m.member_id, k.name as member_name from case_message cm
join message m on m.id = cm.message_id left join member k on k.id = m.member_id
where cm.workspace_id = %(workspace_id)s and cm.case_id = %(id)s and cm.passed_at is null order by m.sent_at, m.id;

-- set_opened: the desk has opened it
update support_case set external_id = %(external_id)s, reference = %(reference)s, url = %(url)s, state = 'open', state_at = %(now)s,
  tries = 0, problem = null
where workspace_id = %(workspace_id)s and id = %(id)s and external_id is null returning id;

-- set_passed: one message has been passed on
update case_message set passed_at = %(now)s where workspace_id = %(workspace_id)s and case_id = %(id)s and message_id = %(message_id)s;

-- set_tries: when it is tried again, and what was wrong
update support_case set tries = %(tries)s, next_at = %(next_at)s, problem = %(problem)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_done: nothing is left to be passed on, unless something has come since
update support_case c set tries = 0, problem = null, next_at = case when exists (select 1 from case_message m where m.case_id = c.id
  and m.passed_at is null) then %(now)s::timestamptz end
where c.workspace_id = %(workspace_id)s and c.id = %(id)s;

-- set_state: what the desk says about it
update support_case set state = %(state)s, state_at = %(at)s
where workspace_id = %(workspace_id)s and id = %(id)s and state_at <= %(at)s returning id;

-- add_remark: what somebody at the desk said; the same one again changes nothing
insert into case_remark (workspace_id, case_id, external_id, by_name, text, at)
values (%(workspace_id)s, %(id)s, %(external_id)s, %(by_name)s, %(text)s, %(at)s) on conflict do nothing returning id;

-- list_due: cases with something to pass on now
select id from support_case where workspace_id = %(workspace_id)s and next_at <= %(now)s order by next_at limit 200;

-- delete_case: a case that never reached the desk
delete from support_case where workspace_id = %(workspace_id)s and id = %(id)s and external_id is null and tries = 0
  and not exists (select 1 from case_message where case_id = %(id)s and passed_at is not null) returning id;

-- delete_unpassed: messages that were to join it
delete from case_message where workspace_id = %(workspace_id)s and case_id = %(id)s and passed_at is null returning message_id;

-- list_cases: cases, the latest change first
select c.id, c.desk_id, d.name as desk_name, c.conversation_id, c.reference, c.url, c.state, c.state_at, c.note, c.opened_by,
  c.rule_name, c.opened_at, c.problem, c.next_at, v.person_name, v.network, v.preview, v.move,
  (select count(*) from case_message m where m.case_id = c.id) as messages,
  (select count(*) from case_message m where m.case_id = c.id and m.passed_at is null) as unpassed,
  coalesce((select jsonb_agg(jsonb_build_object('by_name', r.by_name, 'text', r.text, 'at', r.at) order by r.at, r.id)
    from case_remark r where r.case_id = c.id), '[]') as remarks
from support_case c join support_desk d on d.id = c.desk_id join conversation v on v.id = c.conversation_id
where c.workspace_id = %(workspace_id)s
  and (%(states)s::text[] is null or c.state = any (%(states)s))
  and (%(desk_id)s::bigint is null or c.desk_id = %(desk_id)s)
  and (%(conversation_id)s::bigint is null or c.conversation_id = %(conversation_id)s)
  and (%(person_id)s::bigint is null or v.person_id = %(person_id)s)
  and (%(opened_by)s::bigint is null or c.opened_by = %(opened_by)s)
  and (%(words)s::text is null or v.person_name ilike %(words)s or c.reference ilike %(words)s or v.preview ilike %(words)s)
order by c.state_at desc, c.id desc limit 300;

-- count_states: how many cases stand at each state
select state, count(*) as total from support_case where workspace_id = %(workspace_id)s group by state;
