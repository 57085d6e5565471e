-- list_conversations: conversations with the account and the person they are with, and the post they hang on
select c.id, c.network, a.external_id as account, a.handle as own_handle, c.public, c.thread_key, c.settled_as,
  coalesce(i.external_id, '') as partner, coalesce(i.handle, c.handle) as handle, coalesce(i.name, c.person_name) as name,
  i.reach, coalesce(i.automatic, false) as automatic, p.external_id as post, p.title as post_title, p.body as post_body,
  p.url as post_url, p.published_at as post_published_at, p.author as post_author, coalesce(p.is_ad, false) as post_is_ad
from conversation c join account a on a.id = c.account_id left join post p on p.id = c.post_id
left join lateral (
  select x.* from message m join identity x on x.id = m.identity_id
  where m.conversation_id = c.id and m.workspace_id = %(workspace_id)s and m.inbound order by m.id desc limit 1) i on true
where c.workspace_id = %(workspace_id)s and c.id = any(%(ids)s) and c.erased_at is null order by c.id;

-- list_messages: what was said in conversations and is known outside, in the order in which it was
select m.conversation_id, m.external_id, m.inbound, m.kind, m.public, m.body, m.in_reply_to, m.url, m.sent_at, m.edited_at,
  m.removed_at, m.rating, m.attachments, i.external_id as author, i.handle, i.name, i.reach, coalesce(i.automatic, false) as automatic
from message m left join identity i on i.id = m.identity_id
where m.workspace_id = %(workspace_id)s and m.conversation_id = any(%(ids)s) and m.external_id is not null
order by m.conversation_id, m.sent_at, m.id;

-- find_accounts: the accounts that go by these names on these networks
select a.id, a.network, a.external_id from account a join unnest(%(networks)s::text[], %(accounts)s::text[]) w(network, external_id)
  on a.network = w.network and a.external_id = w.external_id
where a.workspace_id = %(workspace_id)s;
