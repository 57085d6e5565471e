-- add_advice: a question outside, on its way
insert into advice (workspace_id, conversation_id, asked_by, to_address, to_name, question, token, asked_at, wait_until,
  state, next_at)
values (%(workspace_id)s, %(conversation_id)s, %(asked_by)s, %(to_address)s, %(to_name)s, %(question)s, %(token)s,
  %(now)s, %(wait_until)s, 'sending', %(next_at)s) returning id;

-- lock_conversation: the conversation it hangs on, until the transaction ends; locked before the row itself, as everywhere
select c.id from conversation c join advice x on x.conversation_id = c.id
where x.workspace_id = %(workspace_id)s and x.id = %(id)s and c.workspace_id = %(workspace_id)s for update of c;

-- get_advice: one question, until the transaction ends
select id, conversation_id, asked_by, to_address, to_name, question, token, asked_at, wait_until, state, next_at, tries,
  problem
from advice where workspace_id = %(workspace_id)s and id = %(id)s for update;

-- get_advice_by_token: the question that an answer's address names
select id from advice where workspace_id = %(workspace_id)s and token = %(token)s;

-- list_advice: the questions of a conversation with what came back, oldest first
select a.id, a.asked_by, a.to_address, a.to_name, a.question, a.asked_at, a.wait_until, a.state, a.next_at, a.problem,
  coalesce((select json_agg(json_build_object('id', r.id, 'sender', r.sender, 'sender_name', r.sender_name,
    'subject', r.subject, 'own', r.own, 'quoted', r.quoted, 'automatic', r.automatic, 'at', r.at) order by r.at, r.id)
    from advice_answer r where r.advice_id = a.id), '[]') as answers
from advice a where a.workspace_id = %(workspace_id)s and a.conversation_id = %(conversation_id)s order by a.id;

-- list_addresses: who was asked before, the latest first
select to_address, to_name from (
  select distinct on (to_address) to_address, to_name, asked_at from advice
  where workspace_id = %(workspace_id)s order by to_address, asked_at desc) x
order by asked_at desc limit 30;

-- set_advice: where a question stands
update advice set state = %(state)s, next_at = %(next_at)s, tries = %(tries)s, problem = %(problem)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- delete_unsent: takes back a question that has not left
delete from advice where workspace_id = %(workspace_id)s and id = %(id)s and state = 'sending' and tries = 0
returning id;

-- list_sendable: questions whose time to leave has come
select id from advice where workspace_id = %(workspace_id)s and state = 'sending' and next_at <= %(now)s
order by next_at limit 50;

-- list_overdue: questions that have been waited for long enough
select id from advice
where workspace_id = %(workspace_id)s and state in ('sending', 'asked') and wait_until <= %(now)s limit 200;

-- add_answer: something that came back; the same letter twice is one
insert into advice_answer (workspace_id, advice_id, message_id, sender, sender_name, subject, own, quoted, automatic, answers,
  at)
values (%(workspace_id)s, %(advice_id)s, %(message_id)s, %(sender)s, %(sender_name)s, %(subject)s, %(own)s, %(quoted)s,
  %(automatic)s, %(answers)s, %(at)s)
on conflict do nothing returning id;

-- get_thread: the latest letter that came back in a conversation from an address, to write on from
select r.message_id, r.answers from advice_answer r join advice a on a.id = r.advice_id
where a.workspace_id = %(workspace_id)s and a.conversation_id = %(conversation_id)s and a.to_address = %(to_address)s
  and r.automatic is null order by r.at desc, r.id desc limit 1;

-- list_domains: the mail domains that people outside can be asked at
select unnest(mail_domains) as domain from workspace where id = %(workspace_id)s;

-- set_domains: the mail domains from now on
update workspace set mail_domains = %(domains)s where id = %(workspace_id)s;
