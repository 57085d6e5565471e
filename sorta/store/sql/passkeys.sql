-- list_passkeys: a member's, the oldest first
select id, member_id, credential, sign_count, name, made_at, used_at from member_passkey where member_id = %(member_id)s order by id;

-- find_passkey: by what its device calls it, kept from others who use it; with what the device knows its member by
select p.id, p.member_id, p.credential, p.sign_count, p.name, p.made_at, p.used_at, m.user_handle, m.email
from member_passkey p join member m on m.id = p.member_id where p.credential_id = %(credential_id)s for update of p;

-- get_user: what devices know a member by
select user_handle from member where id = %(member_id)s;

-- add_passkey: unless it is somebody's already
insert into member_passkey (member_id, credential_id, credential, sign_count, name, made_at)
values (%(member_id)s, %(credential_id)s, %(credential)s, %(sign_count)s, %(name)s, %(now)s) on conflict (credential_id) do nothing returning id;

-- set_used: it was shown, so many times by its own count
update member_passkey set sign_count = %(sign_count)s, used_at = %(now)s where id = %(id)s;

-- remove_passkey: what it was called
delete from member_passkey where id = %(id)s and member_id = %(member_id)s returning name;

-- answer: a challenge is answered, the first time; those that are over are forgotten
with over as (delete from answered_challenge where expires_at < %(now)s)
insert into answered_challenge (challenge_hash, expires_at) values (%(challenge_hash)s, %(expires_at)s)
on conflict (challenge_hash) do nothing returning true;
