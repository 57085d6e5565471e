-- Thanks for what is settled, and matters that go on from public to private.

alter table conversation
  -- the message in which they only thanked us for what is settled
  add column thanked bigint,
  -- the conversations that are one matter with this one: what began in public and goes on in private
  add column linked bigint[] not null default '{}';

-- a solved case is over: nothing joins it any more
update conversation c set case_until = null where case_until is not null and exists (
  select from support_case s where s.conversation_id = c.id and s.state = 'solved'
  and not exists (select from support_case n where n.conversation_id = c.id and n.id > s.id));
