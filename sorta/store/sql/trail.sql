-- resolve_messages: everything a batch of messages hangs on, found or made (see the migration). A person made by the
-- call is not visible to the statement around it: nobody has met them before.
select f.n, f.known, f.message_id, f.identity_id, f.person_id, f.blocked, f.post_id, f.conversation,
  f.conversation_id, f.early, p.points_at is null as is_new_person, p.standing, w.rules_version, w.time_zone,
  w.held_at is not null as is_held, coalesce((select x.is_ad from post x where x.id = f.post_id), false) as on_ad,
  array(select t.tag_id from person_tag t where t.person_id = f.person_id
    and t.workspace_id = %(workspace_id)s) as person_tags
from resolve_messages(%(workspace_id)s, %(account_id)s, %(network)s, %(now)s, %(items)s) f
join workspace w on w.id = %(workspace_id)s
left join lateral (select x.points_at, x.standing from person x where x.id = f.person_id
  and x.workspace_id = %(workspace_id)s limit 1) p on true
order by f.n;

-- write_trail: messages, events and the conversations' new projection, in one call, with the live notice
with made as (
  insert into conversation (id, workspace_id, account_id, person_id, post_id, thread_key, kind, public, network,
    person_name, handle, preview, messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq,
    sorted, move, priority, owner_id, settled_as, parked_until, awaiting_since, due, unanswered, answering,
    team_id, tags, watchers, sentiment, reads_as, language, bare_mention, first_contact, has_attachment, rating, standing, by_hand,
    proposal_waiting, consent_rules, case_until, advice_waiting, settled_on, parked_on, answered_until,
    thanked, linked)
  select c.id, %(workspace_id)s, c.account_id, c.person_id, c.post_id, c.thread_key, c.kind, c.public, c.network,
    c.person_name, c.handle, c.preview, c.messages, c.created_at, c.last_at, c.last_inbound_at,
    c.last_inbound_seq, c.seq, c.sorted, c.move, c.priority, c.owner_id, c.settled_as, c.parked_until,
    c.awaiting_since, c.due, c.unanswered, c.answering,
    c.team_id, coalesce(c.tags, '{}'), coalesce(c.watchers, '{}'), c.sentiment, c.reads_as, c.language,
    coalesce(c.bare_mention, false), coalesce(c.first_contact, false), coalesce(c.has_attachment, false), c.rating,
    c.standing, coalesce(c.by_hand, '{}'), coalesce(c.proposal_waiting, false), coalesce(c.consent_rules, '{}'), c.case_until,
    coalesce(c.advice_waiting, '{}'), c.settled_on, c.parked_on, c.answered_until, c.thanked,
    coalesce(c.linked, '{}')
  from jsonb_populate_recordset(null::conversation, %(new)s) c
), changed as (
  update conversation old set kind = c.kind, person_name = c.person_name, handle = c.handle,
    preview = c.preview, messages = c.messages, last_at = c.last_at, last_inbound_at = c.last_inbound_at,
    last_inbound_seq = c.last_inbound_seq, seq = c.seq, sorted = c.sorted, move = c.move,
    priority = c.priority, owner_id = c.owner_id, settled_as = c.settled_as, parked_until = c.parked_until,
    awaiting_since = c.awaiting_since, due = c.due, unanswered = c.unanswered, answering = c.answering,
    team_id = c.team_id, tags = c.tags, watchers = c.watchers, sentiment = c.sentiment, reads_as = c.reads_as,
    language = c.language, bare_mention = c.bare_mention, has_attachment = c.has_attachment, rating = c.rating,
    by_hand = c.by_hand, proposal_waiting = c.proposal_waiting, consent_rules = c.consent_rules, case_until = c.case_until,
    advice_waiting = c.advice_waiting, settled_on = c.settled_on, parked_on = c.parked_on, answered_until = c.answered_until,
    thanked = c.thanked, linked = c.linked
  from jsonb_populate_recordset(null::conversation, %(changed)s) c
  where old.id = c.id and old.workspace_id = %(workspace_id)s and old.id = any(%(changed_ids)s::bigint[])
), said as (
  insert into message (id, workspace_id, conversation_id, account_id, external_id, inbound, kind, public,
    identity_id, member_id, body, in_reply_to, url, sent_at, arrived_at, edited_at, removed_at,
    language, sentiment, reads_as, evidence, rating, attachments, rule_id, words)
  select m.id, %(workspace_id)s, m.conversation_id, m.account_id, m.external_id, m.inbound, m.kind, m.public,
    m.identity_id, m.member_id, m.body, m.in_reply_to, m.url, m.sent_at, m.arrived_at, m.edited_at, m.removed_at,
    m.language, m.sentiment, m.reads_as, m.evidence, m.rating, coalesce(m.attachments, '[]'), m.rule_id, m.words
  from jsonb_populate_recordset(null::message, %(messages)s) m
), happened as (
  insert into trail (conversation_id, seq, workspace_id, kind, at, member_id, data)
  select t.conversation_id, t.seq, %(workspace_id)s, t.kind, t.at, t.member_id, t.data
  from jsonb_populate_recordset(null::trail, %(events)s) t
), waits as (
  insert into spell (workspace_id, conversation_id, seq, account_id, network, kind, public, first, since, phases)
  select %(workspace_id)s, s.conversation_id, s.seq, s.account_id, s.network, s.kind, s.public, s.first, s.since, s.phases
  from jsonb_populate_recordset(null::spell, %(opened)s) s
)
select pg_notify('sorta_live', %(notice)s);

-- write_spells: the spells of conversations told anew, in place of those there were
with gone as (
  delete from spell old where old.workspace_id = %(workspace_id)s and old.conversation_id = any(%(ids)s)
    and not exists (select from jsonb_populate_recordset(null::spell, %(spells)s) s
      where s.conversation_id = old.conversation_id and s.seq = old.seq)
), waited as (
  insert into spell (workspace_id, conversation_id, seq, account_id, network, kind, public, first, since, phases, ended_at, ended_by, how, ended_seq,
    member_id, rule_id, reply_id, owner_id, team_id, priority, language, sentiment, tags, clock_s, work_s, parked_s,
    review_s, advice_s, case_s, handling_s, due)
  select %(workspace_id)s, s.conversation_id, s.seq, s.account_id, s.network, s.kind, s.public, s.first, s.since, s.phases, s.ended_at, s.ended_by,
    s.how, s.ended_seq, s.member_id, s.rule_id, s.reply_id, s.owner_id, s.team_id, s.priority, s.language, s.sentiment,
    s.tags, s.clock_s, s.work_s, s.parked_s, s.review_s, s.advice_s, s.case_s, s.handling_s, s.due
  from jsonb_populate_recordset(null::spell, %(spells)s) s
  on conflict (conversation_id, seq) do update set account_id = excluded.account_id, network = excluded.network,
    kind = excluded.kind, public = excluded.public, first = excluded.first,
    since = excluded.since, phases = excluded.phases, ended_at = excluded.ended_at, ended_by = excluded.ended_by,
    how = excluded.how, ended_seq = excluded.ended_seq, member_id = excluded.member_id, rule_id = excluded.rule_id, reply_id = excluded.reply_id,
    owner_id = excluded.owner_id, team_id = excluded.team_id, priority = excluded.priority, language = excluded.language, sentiment = excluded.sentiment,
    tags = excluded.tags, clock_s = excluded.clock_s, work_s = excluded.work_s, parked_s = excluded.parked_s, review_s = excluded.review_s,
    advice_s = excluded.advice_s, case_s = excluded.case_s, handling_s = excluded.handling_s, due = excluded.due
  returning 1
)
select count(*) from waited;

-- list_readings: what each message of theirs in these conversations reads as now
select conversation_id, id, language, sentiment from message
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s) and inbound;

-- list_spells: the spells of a conversation as they are kept, in the order in which they opened
select seq, first, since, phases, ended_at, ended_by, how, ended_seq, member_id, rule_id, reply_id, owner_id, team_id, priority,
  language, sentiment, tags, clock_s, work_s, parked_s, review_s, advice_s, case_s, handling_s, due
from spell where workspace_id = %(workspace_id)s and conversation_id = %(id)s order by seq;

-- list_to_tell: the next conversations whose spells are told, by number, until the transaction ends
select id, account_id, network, kind, public from conversation
where workspace_id = %(workspace_id)s and id > %(after)s order by id limit %(limit)s for no key update;

-- list_other_spells: of these conversations, those whose spells are kept otherwise than given
with given as (
  select s.conversation_id, to_jsonb(s) - 'workspace_id' as told from jsonb_populate_recordset(null::spell, %(spells)s) s
), kept as (
  select k.conversation_id, to_jsonb(k) - 'workspace_id' as told from spell k
  where k.workspace_id = %(workspace_id)s and k.conversation_id = any(%(ids)s)
)
select distinct coalesce(g.conversation_id, k.conversation_id) as id from given g
full join kept k on k.conversation_id = g.conversation_id and k.told = g.told
where g.told is null or k.told is null order by id;

-- set_spells_told: from now on reports know all there was
update workspace set spells_told = true where id = %(workspace_id)s;

-- are_spells_told: whether a workspace's spells have been told since they are kept
select spells_told from workspace where id = %(workspace_id)s;

-- get_conversation: one conversation, as its row
select id, account_id, person_id, post_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, owner_id,
  settled_as, parked_until, awaiting_since, due, unanswered, answering,
  team_id, tags, watchers, sentiment, reads_as, language, bare_mention, first_contact, has_attachment, rating, standing, by_hand,
  proposal_waiting, consent_rules, case_until, advice_waiting, settled_on, parked_on, answered_until, thanked, linked, erased_at
from conversation where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_conversations: conversations as their rows, until the transaction ends, each waited for in the order of the numbers
select id, account_id, person_id, post_id, thread_key, kind, public, network, person_name, handle, preview,
  messages, created_at, last_at, last_inbound_at, last_inbound_seq, seq, sorted, move, priority, owner_id,
  settled_as, parked_until, awaiting_since, due, unanswered, answering,
  team_id, tags, watchers, sentiment, reads_as, language, bare_mention, first_contact, has_attachment, rating, standing, by_hand,
  proposal_waiting, consent_rules, case_until, advice_waiting, settled_on, parked_on, answered_until, thanked, linked, erased_at
from conversation where workspace_id = %(workspace_id)s and id = any(%(ids)s) order by id for no key update;

-- list_trail: the trail of a conversation, oldest first
select seq, kind, at, member_id, data from trail
where workspace_id = %(workspace_id)s and conversation_id = %(id)s order by seq;

-- list_trails: the trails of several conversations, each oldest first
select conversation_id, seq, kind, at, member_id, data from trail
where workspace_id = %(workspace_id)s and conversation_id = any(%(ids)s) order by conversation_id, seq;

-- list_messages: what was said in a conversation, oldest first, with where a reply of ours stands
select m.id, m.account_id, m.external_id, m.inbound, m.kind, m.public, m.member_id, m.body, m.url, m.sent_at, m.edited_at,
  m.removed_at, m.removed_by, m.language, m.sentiment, m.reads_as, m.evidence, m.rating, m.attachments, m.hidden,
  m.liked, m.reposted, m.rule_id, r.body->>'name' as rule_name, i.name as author_name, i.handle as author_handle, o.state as delivery, o.problem,
  o.not_before, o.attempts, o.leaves_at, coalesce(o.maybe_out, false) as maybe_out,
  case when o.state in ('queued', 'sending', 'waiting') then o.stuck end as stuck,
  coalesce((select json_agg(json_build_object('language', t.language, 'body', t.body, 'what', t.what,
    'rough', t.rough, 'engine', t.engine) order by t.id) from translation t where t.message_id = m.id), '[]') as translations,
  coalesce((select json_agg(json_build_object('name', h_rule.body->>'name', 'done', h.effects, 'lost', h.lost) order by h.id)
    from rule_hit h join rule h_rule on h_rule.id = h.rule_id where h.message_id = m.id and h.lost <> '[]'), '[]') as not_done
from message m left join identity i on i.id = m.identity_id
left join outbox o on o.message_id = m.id and o.what = 'reply'
left join rule r on r.id = m.rule_id
where m.workspace_id = %(workspace_id)s and m.conversation_id = %(id)s order by m.sent_at, m.id;

-- get_last_inbound: the message of theirs that a reply answers
select m.id, m.external_id, m.identity_id, i.external_id as identity_external_id, i.handle, m.sent_at
from message m join identity i on i.id = m.identity_id
where m.workspace_id = %(workspace_id)s and m.conversation_id = %(id)s and m.inbound and m.removed_at is null
order by m.sent_at desc, m.id desc limit 1;

-- get_message_by_external_id: a message of an account by the network's name for it
select id, conversation_id, inbound, body, sent_at, edited_at, removed_at from message
where workspace_id = %(workspace_id)s and account_id = %(account_id)s and external_id = %(external_id)s
for no key update;

-- list_known: messages of an account by the network's names for them
select external_id, id, conversation_id from message
where workspace_id = %(workspace_id)s and account_id = %(account_id)s and external_id = any(%(external_ids)s);

-- set_message_text: the text after an edit outside; the earlier one is in the trail
update message set body = %(body)s, words = %(words)s::tsvector, edited_at = %(at)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_message_removed: marks a message as deleted outside; it stays readable here
update message set removed_at = %(at)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- add_early_change: keeps an edit or a deletion for a message that has not come yet
insert into early_change (workspace_id, account_id, external_id, body, at)
values (%(workspace_id)s, %(account_id)s, %(external_id)s, %(body)s, %(at)s);

-- set_post: what is known of a post now; an empty stand-in never replaces what is known
insert into post as old (workspace_id, account_id, external_id, title, body, url, published_at, author, is_ad)
values (%(workspace_id)s, %(account_id)s, %(external_id)s, %(title)s, %(body)s, %(url)s, %(published_at)s, %(author)s,
  %(is_ad)s)
on conflict (account_id, external_id) do update set title = excluded.title, body = excluded.body,
  url = excluded.url, published_at = excluded.published_at, author = excluded.author,
  is_ad = excluded.is_ad
where excluded.title <> '' or excluded.body <> '';

-- get_post: a post with how much was said under it here
select p.id, p.title, p.body, p.url, p.published_at, p.author,
  (select count(*) from message m join conversation c on c.id = m.conversation_id
   where c.workspace_id = %(workspace_id)s and c.post_id = p.id and m.inbound) as comments,
  (select count(*) from reaction r where r.account_id = p.account_id and r.object_id = p.external_id) as reactions
from post p where p.workspace_id = %(workspace_id)s and p.id = %(id)s;

-- add_reaction: one reaction and its points; known ones change nothing
with made as (
  insert into identity as had (workspace_id, person_id, network, external_id, handle, name, reach)
  select %(workspace_id)s, nextval('person_id_seq'), %(network)s, %(author)s, %(handle)s, %(name)s, %(reach)s
  where not exists (select from identity where workspace_id = %(workspace_id)s
    and network = %(network)s and external_id = %(author)s)
  on conflict (workspace_id, network, external_id) do update set name = excluded.name
  returning id, person_id, name
), person_made as (
  insert into person (id, workspace_id, name, first_at, points, points_at)
  select person_id, %(workspace_id)s, name, %(at)s, %(points)s, %(at)s from made on conflict (id) do nothing
), who as (
  select id, person_id from made union all select id, person_id from identity
  where workspace_id = %(workspace_id)s and network = %(network)s and external_id = %(author)s limit 1
), kept as (
  insert into reaction (account_id, external_id, workspace_id, identity_id, object_id, at)
  select %(account_id)s, %(external_id)s, %(workspace_id)s, who.id, %(object_id)s, %(at)s from who
  on conflict do nothing returning identity_id
), told as (select pg_notify('sorta_live', %(notice)s) from kept)
update person p set
  points = decayed(p.points, coalesce(p.points_at, %(at)s), %(at)s::timestamptz)
    + decayed(%(points)s, %(at)s::timestamptz, coalesce(p.points_at, %(at)s)),
  points_at = greatest(p.points_at, %(at)s)
from who, kept where p.id = who.person_id and p.workspace_id = %(workspace_id)s and exists (select from told);

-- next_message_id: the number of a message about to be written
select nextval('message_id_seq');

-- list_parked_over: parked conversations whose time has come, and who parked them
select c.id, (select e.member_id from trail e where e.conversation_id = c.id and e.kind = 'parked' order by e.seq desc limit 1) as parked_by
from conversation c
where c.workspace_id = %(workspace_id)s and c.move = 'parked' and c.parked_until <= %(now)s
order by c.parked_until limit 200;

-- has_public_reply: whether a public reply of ours stands under it or is on its way
select exists (select from message m left join outbox o on o.message_id = m.id and o.what = 'reply'
  where m.workspace_id = %(workspace_id)s and m.conversation_id = %(id)s and not m.inbound and m.public
    and m.removed_at is null and (o.state is null or o.state not in ('refused', 'withdrawn')));

-- list_thread: everything said under a post, oldest first, each with the conversation it belongs to
select m.id, m.conversation_id, m.external_id, m.in_reply_to, m.inbound, m.member_id, m.body, m.sent_at, m.edited_at,
  m.removed_at, m.hidden, m.liked, c.person_id, c.person_name, c.move,
  coalesce(i.name, '') as author_name, coalesce(i.handle, '') as author_handle
from conversation c join message m on m.conversation_id = c.id left join identity i on i.id = m.identity_id
where c.workspace_id = %(workspace_id)s and c.post_id = %(post_id)s and m.workspace_id = %(workspace_id)s and m.public
order by m.sent_at, m.id limit 2000;

-- list_gone_private: conversations with a person in which we went on in private, and which are not one matter yet with
-- the private one
select c.id, c.owner_id, c.team_id, c.tags, max(m.id) as message_id from conversation c join message m on m.conversation_id = c.id
where c.workspace_id = %(workspace_id)s and c.account_id = %(account_id)s and c.person_id = %(person_id)s and c.public
  and not (%(private_id)s = any(c.linked)) and m.workspace_id = %(workspace_id)s and not m.inbound and not m.public
  and m.removed_at is null and m.sent_at > %(since)s and m.sent_at <= %(until)s
  and not exists (select from outbox o where o.message_id = m.id and o.what = 'reply' and o.state in ('refused', 'withdrawn'))
group by c.id, c.owner_id, c.team_id, c.tags order by max(m.id);

-- list_linked: what is one matter with a conversation, each with what was said last, and what we wrote in private there
select c.id, c.public, c.kind, c.network, c.person_name, c.preview, c.move, c.owner_id, c.settled_as, c.last_at, p.title as post_title,
  coalesce((select json_agg(json_build_object('id', m.id, 'inbound', m.inbound, 'public', m.public, 'body', m.body,
      'sent_at', m.sent_at, 'member_id', m.member_id) order by m.sent_at, m.id)
    from (select * from message x where x.conversation_id = c.id and x.workspace_id = %(workspace_id)s and x.removed_at is null
      and not exists (select from outbox o where o.message_id = x.id and o.what = 'reply' and o.state in ('refused', 'withdrawn'))
      order by x.sent_at desc, x.id desc limit 6) m), '[]') as messages
from conversation c left join post p on p.id = c.post_id
where c.workspace_id = %(workspace_id)s and c.id = any(%(ids)s) order by c.last_at;
