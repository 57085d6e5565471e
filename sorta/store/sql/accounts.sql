-- get_account: one connected account, with its credentials
select id, workspace_id, network, name, handle, external_id, api_url, token, hook_secret, paused_reason, sign_off,
  backfill_cursor, silent_since, ask_again_at, hook_secret_before, hook_secret_until, refresh_token, token_ends_at, lacking, disconnected_at, has_erased, reads_from
from account where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_accounts: the connected accounts, with their credentials
select id, workspace_id, network, name, handle, external_id, api_url, token, hook_secret, paused_reason, sign_off,
  backfill_cursor, silent_since, ask_again_at, hook_secret_before, hook_secret_until, refresh_token, token_ends_at, lacking, disconnected_at, has_erased, reads_from
from account where workspace_id = %(workspace_id)s order by id;

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
with resumed as (update account set token = %(token)s, refresh_token = null, token_ends_at = null, renew_at = null, paused_reason = null,
    silent_since = null, ask_again_at = null, disconnected_at = null, disconnected_by = null
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

-- add_try: somebody is asked for leave at a network's page
insert into grant_try (workspace_id, state_hash, member_id, network, verifier, made_at, expires_at)
values (%(workspace_id)s, %(state_hash)s, %(member_id)s, %(network)s, %(verifier)s, %(now)s, %(expires_at)s);

-- use_try: what was asked under a state, once, by who asked it
update grant_try set used_at = %(now)s where workspace_id = %(workspace_id)s and state_hash = %(state_hash)s and member_id = %(member_id)s
  and network = %(network)s and used_at is null and expires_at > %(now)s returning verifier;

-- grant: what a network grants for an account, which may be here already; whether it is new
with before as (select id from account where workspace_id = %(workspace_id)s and network = %(network)s and external_id = %(external_id)s)
insert into account as a (workspace_id, network, name, handle, external_id, api_url, token, hook_secret, refresh_token, token_ends_at, renew_at, lacking)
values (%(workspace_id)s, %(network)s, %(name)s, %(handle)s, %(external_id)s, %(api_url)s, %(token)s, %(hook_secret)s, %(refresh_token)s,
  %(token_ends_at)s, %(renew_at)s, %(lacking)s)
on conflict (workspace_id, network, external_id) do update set handle = excluded.handle, api_url = excluded.api_url, token = excluded.token,
  refresh_token = excluded.refresh_token, token_ends_at = excluded.token_ends_at, renew_at = excluded.renew_at, lacking = excluded.lacking,
  paused_reason = null, silent_since = null, ask_again_at = null, disconnected_at = null, disconnected_by = null
returning a.id, not exists (select from before) as is_new;

-- claim_renewal: an account whose token is to be renewed, for as long as the lease
update account set renew_at = %(lease_until)s where workspace_id = %(workspace_id)s and disconnected_at is null and id = (
  select id from account where workspace_id = %(workspace_id)s and renew_at <= %(now)s and refresh_token is not null and disconnected_at is null
  order by renew_at limit 1 for update skip locked)
returning id, network, refresh_token, token_ends_at;

-- set_renewed: fresh tokens, in the place of those that were shown; what waited may go out
with renewed as (update account set token = %(token)s, refresh_token = coalesce(%(refresh_token)s, refresh_token), token_ends_at = %(token_ends_at)s,
    renew_at = %(renew_at)s, paused_reason = null
  where workspace_id = %(workspace_id)s and id = %(id)s and refresh_token = %(was)s and disconnected_at is null returning 1)
select pg_notify('sorta_live', %(notice)s) from renewed;

-- set_lost: nothing is granted any more
with lost as (update account set refresh_token = null, renew_at = null, paused_reason = %(reason)s
  where workspace_id = %(workspace_id)s and id = %(id)s and refresh_token = %(was)s returning 1)
select pg_notify('sorta_live', %(notice)s) from lost;

-- renew_soon: a token that is not taken any more is renewed at once, where it can be
update account set renew_at = %(now)s where workspace_id = %(workspace_id)s and id = %(id)s and refresh_token is not null and disconnected_at is null;

-- disconnect: nothing comes in or goes out by an account from now on; its tokens are forgotten
with gone as (update account set disconnected_at = %(now)s, disconnected_by = %(member_id)s, token = %(token)s, refresh_token = null,
    token_ends_at = null, renew_at = null, lacking = '[]', paused_reason = null, silent_since = null, ask_again_at = null
  where workspace_id = %(workspace_id)s and id = %(id)s and disconnected_at is null returning 1)
select pg_notify('sorta_live', %(notice)s) from gone;

-- set_sign_off: the line that closes an account's answers
with changed as (update account set sign_off = %(sign_off)s where workspace_id = %(workspace_id)s and id = %(id)s)
select pg_notify('sorta_live', %(notice)s);
