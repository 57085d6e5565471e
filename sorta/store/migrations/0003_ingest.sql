-- The two statements of taking in messages, one call each: a call costs more than what it does.

-- Finds or makes everything a batch of messages hangs on. Makes persons, identities and posts; only
-- numbers new conversations and messages, which `write_trail` inserts with their projection.
-- p_items: [{n, external_id, thread_key, public, partner {external_id, handle, name, reach},
--            post {external_id, title, body, url, published_at, author} | null}]
create function resolve_messages(p_workspace bigint, p_account bigint, p_network text,
                                 p_now timestamptz, p_items jsonb)
returns table (n integer, known boolean, message_id bigint, identity_id bigint, person_id bigint,
               blocked boolean, post_id bigint, conversation jsonb, conversation_id bigint, early jsonb)
language plpgsql
-- A batch is small beside the tables, always. Without statistics yet, or with a plan kept from when they were
-- empty, the planner would read them whole (measured: 25 times slower after 10,000 messages); each look-up is a
-- lateral one with a limit, so that it can only go by the whole key.
set enable_seqscan = off set enable_hashjoin = off set enable_mergejoin = off set plan_cache_mode = force_generic_plan
as $$
#variable_conflict use_column
begin
  with partners as (
    select distinct on (i.partner->>'external_id') i.partner
    from jsonb_to_recordset(p_items) as i(n integer, partner jsonb)
    order by i.partner->>'external_id', i.n desc
  ), made as (
    insert into identity as had (workspace_id, person_id, network, external_id, handle, name, reach)
    select p_workspace, coalesce(old.person_id, nextval('person_id_seq')), p_network,
           p.partner->>'external_id', p.partner->>'handle', p.partner->>'name',
           (p.partner->>'reach')::smallint
    from partners p
    left join lateral (
      select x.id, x.person_id, x.handle, x.name, x.reach from identity x where x.workspace_id = p_workspace
        and x.network = p_network and x.external_id = p.partner->>'external_id' limit 1) old on true
    where old.id is null or (old.handle, old.name, old.reach) is distinct from
      (p.partner->>'handle', p.partner->>'name', coalesce((p.partner->>'reach')::smallint, old.reach))
    on conflict (workspace_id, network, external_id) do update
      set handle = excluded.handle, name = excluded.name, reach = coalesce(excluded.reach, had.reach)
    returning person_id, name
  )
  insert into person (id, workspace_id, name, first_at)
  select made.person_id, p_workspace, made.name, p_now from made
  on conflict (id) do nothing;

  insert into post (workspace_id, account_id, external_id, title, body, url, published_at, author)
  select distinct on (i.post->>'external_id') p_workspace, p_account, i.post->>'external_id',
         i.post->>'title', i.post->>'body', i.post->>'url', (i.post->>'published_at')::timestamptz,
         i.post->>'author'
  from jsonb_to_recordset(p_items) as i(post jsonb)
  where i.post is not null and jsonb_typeof(i.post) = 'object' and not exists (
    select from post old where old.account_id = p_account and old.external_id = i.post->>'external_id')
  order by i.post->>'external_id'
  on conflict (account_id, external_id) do nothing;

  return query
  with items as (
    select i.n, i.external_id, i.thread_key, idn.id as identity_id, idn.person_id, pe.blocked,
           po.id as post_id, m.id as old_message
    from jsonb_to_recordset(p_items) as i(n integer, external_id text, thread_key text, partner jsonb, post jsonb)
    cross join lateral (
      select x.id, x.person_id from identity x where x.workspace_id = p_workspace
        and x.network = p_network and x.external_id = i.partner->>'external_id' limit 1) idn
    cross join lateral (select x.blocked from person x where x.id = idn.person_id limit 1) pe
    left join lateral (
      select x.id from post x where x.account_id = p_account
        and x.external_id = i.post->>'external_id' limit 1) po on true
    left join lateral (
      select x.id from message x where x.account_id = p_account
        and x.external_id = i.external_id limit 1) m on true
  ), keys as materialized (
    select k.person_id, k.thread_key, nextval('conversation_id_seq') as fresh_id
    from (select distinct items.person_id, items.thread_key from items) k
  ), found as (
    select c.* from (select * from keys order by keys.person_id, keys.thread_key) k cross join lateral (
      select x.* from conversation x where x.account_id = p_account and x.person_id = k.person_id
        and x.thread_key = k.thread_key limit 1 for no key update) c
  )
  select items.n, items.old_message is not null, coalesce(items.old_message, nextval('message_id_seq')),
         items.identity_id, items.person_id, items.blocked, items.post_id, to_jsonb(found),
         coalesce(found.id, keys.fresh_id),
         (select jsonb_agg(jsonb_build_object('body', e.body, 'at', e.at) order by e.at)
          from early_change e where e.account_id = p_account and e.external_id = items.external_id)
  from items
  join keys on keys.person_id = items.person_id and keys.thread_key = items.thread_key
  left join found on found.person_id = items.person_id and found.thread_key = items.thread_key
  order by items.n;
end $$;
grant execute on function resolve_messages to sorta_app;
grant usage on all sequences in schema public to sorta_app;
