-- get_member_for_sign_in: the member with this e-mail address, with the password's hash
select id, organisation_id, name, initials, email, password_hash, has_password from member where email = %(email)s;

-- add_session: opens a session, whole unless the second step is still to come; only the token's hash is kept
insert into session (token_hash, member_id, created_at, expires_at, seen_at, came_from, agent, whole)
values (%(token_hash)s, %(member_id)s, %(now)s, %(expires_at)s, %(now)s, %(came_from)s,
  %(agent)s, %(whole)s);

-- touch_session: somebody uses it
update session set seen_at = %(now)s where token_hash = %(token_hash)s and seen_at < %(now)s;

-- set_device: the member has signed in on this device
insert into device (token_hash, member_id, seen_at) values (%(token_hash)s, %(member_id)s, %(now)s)
on conflict (token_hash) do update set seen_at = excluded.seen_at, member_id = excluded.member_id;

-- is_device_of: whether the member with this e-mail address has signed in on this device before
select exists (select from device d join member m on m.id = d.member_id where d.token_hash = %(token_hash)s and m.email = %(email)s);

-- delete_session: ends a session
delete from session where token_hash = %(token_hash)s returning member_id;

-- get_session: who a session belongs to, and whether the second step was shown
select s.member_id, m.name, m.initials, m.email, m.has_password, s.created_at, s.whole,
  has_second(m.id),
  jsonb_build_object('single_keys', m.single_keys, 'theme', m.theme, 'text_size', m.text_size, 'density', m.density, 'strip', m.strip, 'tab', m.tab, 'shown_around', m.shown_around) as screen
from session s join member m on m.id = s.member_id
where s.token_hash = %(token_hash)s and s.expires_at > %(now)s and s.seen_at > %(idle_since)s;

-- set_password: another password; sessions and devices but the one that changes it end
with gone as (delete from session where member_id = %(member_id)s and token_hash <> %(token_hash)s),
  unknown as (delete from device where member_id = %(member_id)s)
update member set password_hash = %(password_hash)s, has_password = true where id = %(member_id)s;

-- add_password_link: a link by which another password is set; those made before lead nowhere
with before as (update password_link set used_at = %(now)s where member_id = %(member_id)s and used_at is null)
insert into password_link (token_hash, member_id, made_at, expires_at) values (%(token_hash)s, %(member_id)s, %(now)s, %(expires_at)s);

-- find_password_link: whose it is, kept from others who use it, when it still leads anywhere
select m.id, m.organisation_id, m.name, m.initials, m.email, m.password_hash, m.has_password from password_link l join member m on m.id = l.member_id
where l.token_hash = %(token_hash)s and l.used_at is null and l.expires_at > %(now)s for update of l;

-- use_password_link: it leads nowhere from now on
update password_link set used_at = %(now)s where token_hash = %(token_hash)s;

-- set_screen: how a member wants the screen; what is null stays as it is
update member set single_keys = coalesce(%(single_keys)s, single_keys), theme = coalesce(%(theme)s, theme),
  text_size = coalesce(%(text_size)s, text_size), density = coalesce(%(density)s, density), strip = coalesce(%(strip)s, strip),
  tab = coalesce(%(tab)s, tab), shown_around = coalesce(%(shown_around)s, shown_around)
where id = %(member_id)s;

-- get_scope: who a session belongs to and what they are in the workspace of the transaction
select s.member_id, s.seen_at, m.name, ms.role, ms.limited, r.name as role_name, r.permissions, w.time_zone, w.id as workspace_id,
  w.needs_second and not has_second(m.id) as lacks_second
from session s join member m on m.id = s.member_id
  join membership ms on ms.member_id = m.id and ms.workspace_id = %(workspace_id)s
  join role r on r.workspace_id = ms.workspace_id and r.key = ms.role
  join workspace w on w.id = ms.workspace_id and w.archived_at is null
where s.token_hash = %(token_hash)s and s.expires_at > %(now)s and s.seen_at > %(idle_since)s and s.whole;

-- list_workspaces: the workspaces a member works in; shows rows of the member set in the transaction
select w.id, w.name, w.time_zone, ms.role, ms.limited, r.name as role_name, r.permissions, w.needs_second, w.description, w.archived_at, w.languages, w.colour, w.picture, w.send_settles
from membership ms join workspace w on w.id = ms.workspace_id join role r on r.workspace_id = ms.workspace_id and r.key = ms.role
where ms.member_id = %(member_id)s order by w.id;

-- list_all_workspace_ids: every workspace, also those that were put away
select id from workspace order by id;

-- list_working_ids: every workspace that is not put away, for what runs by itself
select id from workspace where archived_at is null order by id;

-- count_workspaces: how many an organisation has
select count(*) from workspace where organisation_id = %(organisation_id)s;

-- set_workspace: what a workspace is called and is about
update workspace set name = %(name)s, description = %(description)s, languages = %(languages)s, colour = %(colour)s, send_settles = %(send_settles)s where id = %(workspace_id)s;

-- archive: put away; nothing leaves it, also when it is brought back, until that is let go
update workspace set archived_at = %(now)s, held_at = coalesce(held_at, %(now)s), held_by = case when held_at is null then %(member_id)s else held_by end,
  held_reason = coalesce(held_reason, %(reason)s) where id = %(workspace_id)s and archived_at is null returning id;

-- bring_back: opened again
update workspace set archived_at = null where id = %(workspace_id)s and archived_at is not null returning id;

-- get_organisation_of: whose a workspace is
select organisation_id from workspace where id = %(workspace_id)s;

-- get_workspace: name and time zone of one workspace
select name, time_zone, needs_second, description, archived_at, languages, colour, picture, send_settles from workspace where id = %(workspace_id)s;

-- list_members: the members of one workspace
select m.id, m.name, m.initials, ms.role, ms.limited, r.name as role_name, r.permissions
from membership ms join member m on m.id = ms.member_id join role r on r.workspace_id = ms.workspace_id and r.key = ms.role
where ms.workspace_id = %(workspace_id)s order by m.name;

-- list_names: of who works here, and of who did
select m.id, m.name from member m where m.id in (select member_id from membership where workspace_id = %(workspace_id)s
  union select member_id from former_member where workspace_id = %(workspace_id)s);

-- list_about: what who manages members sees of each
select m.id as member_id, m.email, ms.limited,
  greatest((select max(s.seen_at) from session s where s.member_id = m.id), (select max(d.seen_at) from device d where d.member_id = m.id)) as seen_at,
  array(select t.name from team_member x join team t on t.id = x.team_id where x.workspace_id = ms.workspace_id and x.member_id = m.id order by 1) as teams,
  coalesce((select a.languages from availability a where a.workspace_id = ms.workspace_id and a.member_id = m.id), '{}') as languages
from membership ms join member m on m.id = ms.member_id where ms.workspace_id = %(workspace_id)s order by m.name;

-- lock_tries: how often signing in was tried under a key, kept from others who count it
insert into sign_in_failure (key, tries, last_at) values (%(key)s, 0, %(now)s)
on conflict (key) do update set key = excluded.key returning tries, last_at;

-- take_back_try: a try that was none after all
update sign_in_failure set tries = greatest(tries - 1, 0) where key = any(%(keys)s);

-- add_failure: counts one more failed try; after a quiet quarter of an hour counting starts anew
insert into sign_in_failure as f (key, tries, last_at) values (%(key)s, 1, %(now)s)
on conflict (key) do update set last_at = excluded.last_at,
  tries = case when f.last_at < excluded.last_at - interval '15 minutes' then 1 else f.tries + 1 end;

-- delete_failures: forgets failed tries after a good one
delete from sign_in_failure where key = any(%(keys)s);

-- list_organisations: of this installation
select id, name from organisation order by id;

-- add_organisation: a new organisation
insert into organisation (name) values (%(name)s) returning id;

-- add_workspace: a new workspace
insert into workspace (organisation_id, name, time_zone)
values (%(organisation_id)s, %(name)s, %(time_zone)s) returning id;

-- add_member: a new member
insert into member (organisation_id, email, name, initials, password_hash)
values (%(organisation_id)s, %(email)s, %(name)s, %(initials)s, %(password_hash)s) returning id;

-- add_member_of_provider: a new member who has set no password
insert into member (organisation_id, email, name, initials, password_hash, has_password)
values (%(organisation_id)s, %(email)s, %(name)s, %(initials)s, %(password_hash)s, false);

-- lock_address: nobody else makes a member of this address until the transaction ends
select pg_advisory_xact_lock(hashtext('member'), hashtext(%(email)s));

-- list_working_of: an organisation's workspaces that are not put away
select id from workspace where organisation_id = %(organisation_id)s and archived_at is null order by id;

-- list_roles: the roles of a workspace, those that may most first
select key, name, permissions from role where workspace_id = %(workspace_id)s order by cardinality(permissions) desc, name;

-- add_role: a new role
insert into role (workspace_id, key, name, permissions) values (%(workspace_id)s, %(key)s, %(name)s, %(permissions)s);

-- change_role: its name and what it holds
update role set name = %(name)s, permissions = %(permissions)s where workspace_id = %(workspace_id)s and key = %(key)s;

-- delete_role: forget a role that nobody has
delete from role where workspace_id = %(workspace_id)s and key = %(key)s;

-- lock_roles: what each member is, and nobody changes that until the transaction ends
select member_id, role from membership where workspace_id = %(workspace_id)s order by member_id for update;

-- set_role: what a member is in a workspace, also one who had left it
with back as (delete from former_member where workspace_id = %(workspace_id)s and member_id = %(member_id)s)
insert into membership (workspace_id, member_id, role) values (%(workspace_id)s, %(member_id)s, %(role)s)
on conflict (workspace_id, member_id) do update set role = excluded.role, by_group = false, limited = membership.limited and excluded.role <> 'owner';

-- set_limited: whether a member sees the accounts of their groups only
update membership set limited = %(limited)s where workspace_id = %(workspace_id)s and member_id = %(member_id)s;
