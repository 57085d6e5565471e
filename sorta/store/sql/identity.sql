-- find_login: the member that a provider knows by this name of its own
select m.id, m.organisation_id, m.name, m.initials, m.email, m.password_hash, m.has_password from provider_login l join member m on m.id = l.member_id
where l.issuer = %(issuer)s and l.subject = %(subject)s;

-- add_login: from now on a provider's word is theirs; unless it knows them by another name already
insert into provider_login (issuer, subject, member_id, made_at, used_at)
values (%(issuer)s, %(subject)s, %(member_id)s, %(now)s, %(now)s) on conflict do nothing returning true;

-- set_login_used: they came by it
update provider_login set used_at = %(now)s where issuer = %(issuer)s and subject = %(subject)s;

-- has_login: whether a provider knows a member
select exists (select from provider_login where issuer = %(issuer)s and member_id = %(member_id)s);

-- list_groups: which of a provider's groups work in a workspace as what, in the order they were named
select g.id, g.name, g.role, r.name as role_name, r.permissions from provider_group g
  join role r on r.workspace_id = g.workspace_id and r.key = g.role where g.workspace_id = %(workspace_id)s order by g.id;

-- add_group: none twice
insert into provider_group (workspace_id, name, role) values (%(workspace_id)s, %(name)s, %(role)s) on conflict (workspace_id, name) do nothing returning id;

-- remove_group: what it was called
delete from provider_group where workspace_id = %(workspace_id)s and id = %(id)s returning name;

-- get_place: what a member is in a workspace, kept from others who change it, and whether a group gave it
select role, by_group from membership where workspace_id = %(workspace_id)s and member_id = %(member_id)s for update;

-- set_by_group: their place is a group's
update membership set by_group = true where workspace_id = %(workspace_id)s and member_id = %(member_id)s;
