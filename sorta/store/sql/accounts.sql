-- get_account: one connected account, with its credentials
select id, workspace_id, network, name, handle, external_id, api_url, token, hook_secret, paused_reason,
  backfill_cursor, silent_since, ask_again_at, hook_secret_before, hook_secret_until from account where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_accounts: the connected accounts, with their credentials
select id, workspace_id, network, name, handle, external_id, api_url, token, hook_secret, paused_reason,
  backfill_cursor, silent_since, ask_again_at, hook_secret_before, hook_secret_until from account where workspace_id = %(workspace_id)s order by id;

-- add_account: connects an account
insert into account (workspace_id, network, name, handle, external_id, api_url, token, hook_secret)
values (%(workspace_id)s, %(network)s, %(name)s, %(handle)s, %(external_id)s, %(api_url)s, %(token)s,
  %(hook_secret)s) on conflict (workspace_id, network, external_id) do nothing returning id;

-- pause_account: the network no longer takes the account's credentials
with paused as (update account set paused_reason = %(reason)s
  where workspace_id = %(workspace_id)s and id = %(id)s)
select pg_notify('sorta_live', %(notice)s);

-- set_silent: the network did not answer, since when, and when it is asked again
with silent as (update account set silent_since = %(since)s, ask_again_at = %(ask_again_at)s
  where workspace_id = %(workspace_id)s and id = %(id)s)
select pg_notify('sorta_live', %(notice)s);

-- set_ask_again: somebody asks a silent network now; everybody else waits for the outcome
update account set ask_again_at = %(at)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_answering: the network answers again
with back as (update account set silent_since = null, ask_again_at = null
  where workspace_id = %(workspace_id)s and id = %(id)s and silent_since is not null returning 1)
select pg_notify('sorta_live', %(notice)s) from back;

-- set_token: new credentials; what waited may go out
with resumed as (update account set token = %(token)s, paused_reason = null, silent_since = null, ask_again_at = null
  where workspace_id = %(workspace_id)s and id = %(id)s)
select pg_notify('sorta_live', %(notice)s);

-- change_hook_secret: a new secret for what the network delivers; the one before is taken too for a while
update account set hook_secret_before = hook_secret, hook_secret = %(sealed)s, hook_secret_until = %(until)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_backfill_cursor: how far the account's activities have been read
update account set backfill_cursor = %(cursor)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- add_aside: keeps what could not be taken in, once
insert into aside (workspace_id, account_id, received_at, source, reason, body)
values (%(workspace_id)s, %(account_id)s, %(now)s, %(source)s, %(reason)s, %(body)s)
on conflict (account_id, body_hash) do nothing;

-- list_aside: what could not be taken in and still has not been
select a.id, a.account_id, a.received_at, a.source, a.reason, left(a.body, 4000) as body, c.name as account_name, c.network
from aside a join account c on c.id = a.account_id
where a.workspace_id = %(workspace_id)s and a.taken_at is null order by a.id desc limit 200;

-- get_aside: one of them
select a.id, a.account_id, a.body from aside a
where a.workspace_id = %(workspace_id)s and a.id = %(id)s and a.taken_at is null;

-- set_aside_taken: it has been taken in after all
update aside set taken_at = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_aside_reason: why it could still not be taken in
update aside set reason = %(reason)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- is_chosen: whether the database knows the key that the pass of this transaction was signed with
select chosen_workspace() is not null;

-- count_migrations: how many of the expected migrations have been applied
select count(*) from _yoyo_migration where migration_id = any(%(names)s);
