-- lock_accounts: what is sealed of each account, until the transaction ends
select id, token, hook_secret, hook_secret_before, refresh_token from account where workspace_id = %(workspace_id)s order by id for update;

-- set_account: an account's secrets, sealed again
update account set token = %(token)s, hook_secret = %(hook_secret)s, hook_secret_before = %(hook_secret_before)s, refresh_token = %(refresh_token)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_desks: what is sealed of each support desk, until the transaction ends
select id, token, hook_secret, hook_secret_before from support_desk where workspace_id = %(workspace_id)s order by id for update;

-- set_desk: a desk's secrets, sealed again
update support_desk set token = %(token)s, hook_secret = %(hook_secret)s, hook_secret_before = %(hook_secret_before)s
where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_reports: what is sealed of each shared report, until the transaction ends
select id, token from shared_report where workspace_id = %(workspace_id)s order by id for update;

-- set_report: a shared report's secret, sealed again
update shared_report set token = %(token)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_invitations: the secrets of invitations that nobody has taken
select id, token from invitation where workspace_id = %(workspace_id)s and token is not null order by id for update;

-- set_invitation: the same, sealed again
update invitation set token = %(token)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_tries: what is sealed of tries at a network's page
select id, verifier from grant_try where workspace_id = %(workspace_id)s order by id for update;

-- set_try: the same, sealed again
update grant_try set verifier = %(verifier)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- lock_hooks: what is sealed of places where programs are told
select id, secret, secret_before from web_hook where workspace_id = %(workspace_id)s order by id for update;

-- set_hook: the same, sealed again
update web_hook set secret = %(secret)s, secret_before = %(secret_before)s where workspace_id = %(workspace_id)s and id = %(id)s;
