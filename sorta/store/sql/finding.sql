-- find_people: people in whose name or handle all the words stand; of one that is not made ready yet the words as they are written
select p.id as person_id, p.name, i.handle, i.network,
  (select c.id from conversation c where c.person_id = p.id and c.workspace_id = %(workspace_id)s
   order by c.last_at desc limit 1) as conversation_id
from identity i join person p on p.id = i.person_id
where i.workspace_id = %(workspace_id)s
  and (i.folded like all(%(patterns)s::text[]) or (i.folded is null and (i.name ilike %(pattern)s or i.handle ilike %(pattern)s)))
order by p.name, p.id limit %(limit)s;

-- list_unread: messages that are not made ready to be found by words, the newest first
select id, body from message where workspace_id = %(workspace_id)s and words is null order by id desc limit %(limit)s;

-- set_words: what messages are found by, where they still say the same
update message m set words = g.words::tsvector from unnest(%(ids)s::bigint[], %(bodies)s::text[], %(vectors)s::text[]) as g (id, body, words)
where m.workspace_id = %(workspace_id)s and m.id = g.id and m.body = g.body;

-- has_unread: whether some are not found by words yet
select exists (select from message where workspace_id = %(workspace_id)s and words is null);

-- find_messages: messages with all the words, newest first, each with its conversation
select s.message_id, s.conversation_id, s.body, s.sent_at, c.person_name, c.network, c.move
from search_messages(%(workspace_id)s, %(query)s, %(words)s::text[], %(limit)s) s
join conversation c on c.id = s.conversation_id and c.workspace_id = %(workspace_id)s
order by s.sent_at desc, s.message_id desc;

-- list_unfolded: names and handles that are not made ready to be found
select id, name, handle from identity where workspace_id = %(workspace_id)s and folded is null order by id limit %(limit)s;

-- set_folded: as names and handles are found, where they are still written so
update identity i set folded = g.folded from unnest(%(ids)s::bigint[], %(names)s::text[], %(handles)s::text[], %(folded)s::text[]) as g (id, name, handle, folded)
where i.workspace_id = %(workspace_id)s and i.id = g.id and i.name = g.name and i.handle = g.handle;

-- list_words: how often each word stands in the messages that came last, of what one sees
select word, ndoc as n from ts_stat(format(
  'select m.words from (select words from message where workspace_id = %%s and words is not null order by arrived_at desc limit %%s) m',
  %(workspace_id)s::bigint, %(messages)s::integer))
where length(word) between 3 and 40 order by ndoc desc limit %(limit)s;

-- list_name_words: names and handles as people are found by them, the last that came
select folded from identity where workspace_id = %(workspace_id)s and folded is not null order by id desc limit %(limit)s;
