-- get_factor: the second step of a member, kept from others who use it
select secret, confirmed_at, last_step from second_factor where member_id = %(member_id)s for update;

-- has_factor: whether a member shows a second step
select has_second(%(member_id)s);

-- begin: a new secret, not yet shown to be in an app; never in place of one that is
insert into second_factor (member_id, secret, made_at) values (%(member_id)s, %(secret)s, %(now)s)
on conflict (member_id) do update set secret = excluded.secret, made_at = excluded.made_at, last_step = 0
  where second_factor.confirmed_at is null
returning member_id;

-- confirm: from now on it is asked for
update second_factor set confirmed_at = %(now)s, last_step = %(step)s where member_id = %(member_id)s;

-- set_step: the code of this span was taken
update second_factor set last_step = %(step)s where member_id = %(member_id)s;

-- turn_off: no codes of an app from now on
delete from second_factor where member_id = %(member_id)s;

-- has_app: whether a member shows codes of an app
select exists (select from second_factor where member_id = %(member_id)s and confirmed_at is not null);

-- forget_codes: no recovery codes where nothing is left to recover
delete from recovery_code where member_id = %(member_id)s and not has_second(%(member_id)s);

-- set_codes: these recovery codes and no others
with gone as (delete from recovery_code where member_id = %(member_id)s and code_hash <> all(%(hashes)s::bytea[]))
insert into recovery_code (member_id, code_hash) select %(member_id)s, unnest(%(hashes)s::bytea[]);

-- count_codes: how many are left
select count(*) from recovery_code where member_id = %(member_id)s and used_at is null;

-- use_code: it is taken once
update recovery_code set used_at = %(now)s where member_id = %(member_id)s and code_hash = %(code_hash)s and used_at is null returning member_id;

-- make_whole: the second step was shown
update session set whole = true, expires_at = %(expires_at)s where token_hash = %(token_hash)s and not whole returning member_id;

-- list_sessions: where a member is signed in, the one that was used last first
select id, created_at, seen_at, came_from, agent, token_hash = %(token_hash)s as is_this from session
where member_id = %(member_id)s and whole and expires_at > %(now)s and seen_at > %(idle_since)s order by seen_at desc, id desc;

-- end_session: one of a member's sessions
delete from session where member_id = %(member_id)s and id = %(id)s and token_hash <> %(token_hash)s returning id;

-- end_others: all but this one, and no device is known any more
with unknown as (delete from device where member_id = %(member_id)s)
delete from session where member_id = %(member_id)s and token_hash <> %(token_hash)s;

-- set_needed: whether who works in a workspace has to show a second step
update workspace set needs_second = %(on)s where id = %(workspace_id)s;

-- list_lacking: members of a workspace who have none
select m.name from membership ms join member m on m.id = ms.member_id where ms.workspace_id = %(workspace_id)s
  and not has_second(m.id) order by m.name;

-- list_secrets: all there are, until the transaction ends
select member_id, secret from second_factor order by member_id for update;

-- set_secret: sealed again
update second_factor set secret = %(secret)s where member_id = %(member_id)s;
