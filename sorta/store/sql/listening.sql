-- list_listening: saved words, each with the account it searches from
select l.id, l.words, l.account_id, a.network, a.name as account_name, l.member_id, l.made_at, l.cursor, l.problem,
  l.found, l.asked_at from listening l join account a on a.id = l.account_id
where l.workspace_id = %(workspace_id)s order by l.words, l.id;

-- add_listening: words to search for from an account
insert into listening (workspace_id, words, account_id, member_id, made_at)
values (%(workspace_id)s, %(words)s, %(account_id)s, %(member_id)s, %(now)s)
on conflict (account_id, words) do update set words = excluded.words returning id;

-- delete_listening: stops searching; what was found stays
delete from listening where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_asked: how a search went
update listening set cursor = coalesce(%(cursor)s, cursor), problem = %(problem)s, found = found + %(found)s,
  asked_at = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- get_translatable: a message with its language
select m.id, m.body, m.language, m.inbound from message m
where m.workspace_id = %(workspace_id)s and m.id = %(id)s;

-- get_translation: a message in a language, as it was translated before
select language, body, what, rough, engine from translation
where workspace_id = %(workspace_id)s and message_id = %(id)s and language = %(language)s and what = 'translated';

-- add_translation: keeps a translation, or what a reply was written as
insert into translation (workspace_id, message_id, language, body, what, rough, engine, member_id, at)
values (%(workspace_id)s, %(id)s, %(language)s, %(body)s, %(what)s, %(rough)s, %(engine)s, %(member_id)s, %(now)s)
on conflict (message_id, language, what) do nothing;
