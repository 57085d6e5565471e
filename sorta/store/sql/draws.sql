-- add_draw: a draw as it is announced
insert into draw (workspace_id, post_id, rules, seed, commitment, made_by, announced_at, deadline)
values (%(workspace_id)s, %(post_id)s, %(rules)s, %(seed)s, %(commitment)s, %(member_id)s, %(now)s, %(deadline)s) returning id;

-- list_draws: all draws, the latest first
select d.id, d.post_id, p.title, p.url, a.network, d.rules, d.commitment, d.made_by, d.announced_at, d.deadline, d.drawn_by, d.drawn_at,
  d.cancelled_at, d.closed_at, d.entries_sha256,
  coalesce(jsonb_array_length(coalesce(d.certificate, d.listed) -> 'entries'), 0) as entries
from draw d join post p on p.id = d.post_id join account a on a.id = p.account_id
where d.workspace_id = %(workspace_id)s order by d.id desc limit 200;

-- get_draw: one draw, until the transaction ends
select d.id, d.post_id, p.title, p.url, p.account_id, a.network, d.rules, d.commitment, d.made_by, d.announced_at, d.deadline,
  d.drawn_by, d.drawn_at, d.cancelled_at, d.certificate, d.picked, d.closed_at, d.listed, d.entries_sha256, d.public_value
from draw d join post p on p.id = d.post_id join account a on a.id = p.account_id
where d.workspace_id = %(workspace_id)s and d.id = %(id)s for update of d;

-- set_drawn: the certificate, once
update draw set drawn_by = %(member_id)s, drawn_at = %(now)s, certificate = %(certificate)s, picked = %(picked)s,
  public_value = %(public_value)s
where workspace_id = %(workspace_id)s and id = %(id)s and drawn_at is null and cancelled_at is null returning id;

-- set_closed: the list of entries is fixed, once
update draw set closed_at = %(now)s, listed = %(listed)s, entries_sha256 = %(entries_sha256)s
where workspace_id = %(workspace_id)s and id = %(id)s and closed_at is null and cancelled_at is null and deadline <= %(now)s
returning id;

-- open_seed: the seed of a draw whose list is fixed; nothing before that
select open_seed(%(workspace_id)s, %(id)s);

-- list_to_close: draws whose deadline has passed and whose list is not fixed yet
select id from draw where workspace_id = %(workspace_id)s and closed_at is null and cancelled_at is null and deadline <= %(now)s
order by deadline limit 50;

-- has_open: whether a draw under this post is still to be drawn
select exists (select from draw where workspace_id = %(workspace_id)s and post_id = %(post_id)s and drawn_at is null
  and cancelled_at is null);

-- list_earlier: the draws that were announced under the same post before
select rules ->> 'name' as name, announced_at, commitment, drawn_at, cancelled_at from draw
where workspace_id = %(workspace_id)s and post_id = %(post_id)s and id < %(id)s order by id;

-- cancel_draw: it will not be drawn
update draw set cancelled_at = %(now)s
where workspace_id = %(workspace_id)s and id = %(id)s and drawn_at is null and cancelled_at is null returning id;

-- list_said: what people said under a post, with what decides whether it is an entry
select m.id as message, m.external_id as id, c.person_id as person, i.name, i.handle, m.body as text, m.sent_at as at, m.edited_at,
  (m.in_reply_to is not null and m.in_reply_to <> p.external_id) as is_reply, m.removed_at is not null as removed, m.hidden,
  pe.blocked, array(select t.tag_id from person_tag t where t.person_id = pe.id and t.workspace_id = m.workspace_id) as tags
from post p join conversation c on c.post_id = p.id join message m on m.conversation_id = c.id and m.inbound and m.public
  join identity i on i.id = m.identity_id join person pe on pe.id = c.person_id
where p.workspace_id = %(workspace_id)s and p.id = %(post_id)s and c.erased_at is null and c.workspace_id = %(workspace_id)s
  and m.workspace_id = %(workspace_id)s;

-- list_notices: the winners who were written to
select message_id, member_id, at, outcome from draw_notice where workspace_id = %(workspace_id)s and draw_id = %(id)s;

-- add_notice: a winner is being written to; nothing when somebody was before
insert into draw_notice (draw_id, message_id, workspace_id, member_id, at, outcome)
values (%(id)s, %(message_id)s, %(workspace_id)s, %(member_id)s, %(now)s, %(outcome)s) on conflict do nothing returning message_id;

-- set_notice: how writing to a winner went
update draw_notice set outcome = %(outcome)s where workspace_id = %(workspace_id)s and draw_id = %(id)s and message_id = %(message_id)s;

-- delete_notice: writing to a winner did not work
delete from draw_notice where workspace_id = %(workspace_id)s and draw_id = %(id)s and message_id = %(message_id)s;

-- find_conversations: which conversation each message stands in
select id as message_id, conversation_id from message where workspace_id = %(workspace_id)s and id = any(%(messages)s);

-- list_posts: posts that people have spoken under, by words of theirs, the most lately spoken under first
select p.id, p.title, p.body, p.published_at, a.network, a.name as account, count(*) as conversations, max(c.last_at) as last_at
from post p join account a on a.id = p.account_id join conversation c on c.post_id = p.id and c.workspace_id = p.workspace_id
where p.workspace_id = %(workspace_id)s and p.author is null
  and (%(words)s::text is null or p.title ilike %(words)s or p.body ilike %(words)s)
group by p.id, a.network, a.name order by max(c.last_at) desc limit 20;
