-- add_attachment: a file to be sent along, not held by an answer yet
insert into attachment (workspace_id, conversation_id, member_id, sha256, media_type, name, size, description, made_at)
values (%(workspace_id)s, %(conversation_id)s, %(member_id)s, %(sha256)s, %(media_type)s, %(name)s, %(size)s, %(description)s, %(now)s)
returning id;

-- set_description: of a file of the member's that no answer holds
update attachment set description = %(description)s
where workspace_id = %(workspace_id)s and id = %(id)s and member_id = %(member_id)s and used_at is null returning id;

-- list_attachments: files by number, in the order of the numbers
select id, conversation_id, member_id, sha256, media_type, name, size, description, used_at from attachment
where workspace_id = %(workspace_id)s and id = any(%(ids)s) order by id;

-- set_attachments_used: an answer holds them from now on
update attachment set used_at = coalesce(used_at, %(now)s)
where workspace_id = %(workspace_id)s and id = any(%(ids)s);

-- remove_attachment: takes away a file that no answer holds
delete from attachment where workspace_id = %(workspace_id)s and id = %(id)s and member_id = %(member_id)s
  and used_at is null returning sha256;

-- remove_unused: takes away what was put here long ago and never sent
delete from attachment where workspace_id = %(workspace_id)s and used_at is null and made_at < %(before)s
returning sha256;

-- lock_files: until the transaction ends nobody else adds or removes contents of the workspace
select pg_advisory_xact_lock(hashtext('attachment'), %(workspace_id)s::bigint::integer);

-- measure: bytes of the member's files that no answer holds, and of all files of the workspace, each content once
select (select coalesce(sum(size), 0)::bigint from attachment where workspace_id = %(workspace_id)s and member_id = %(member_id)s
    and used_at is null) as put_by,
  (select coalesce(sum(size), 0)::bigint from (select distinct on (sha256) size from (
    select sha256, size from attachment where workspace_id = %(workspace_id)s
    union all select sha256, size from library_file where workspace_id = %(workspace_id)s) k order by sha256) c) as in_workspace;

-- list_needed: of these contents, those that a file still has
select sha256 from attachment where workspace_id = %(workspace_id)s and sha256 = any(%(sha256s)s)
union select sha256 from library_file where workspace_id = %(workspace_id)s and sha256 = any(%(sha256s)s);

-- list_library: the workspace's own files by name, or the one of a number, each with how many answers hold its content
select l.id, l.sha256, l.media_type, l.name, l.size, l.description, l.made_at, m.name as made_by,
  (select count(*) from attachment a where a.workspace_id = l.workspace_id and a.sha256 = l.sha256 and a.used_at is not null) as uses
from library_file l join member m on m.id = l.member_id
where l.workspace_id = %(workspace_id)s and (%(id)s::bigint is null or l.id = %(id)s) order by lower(l.name), l.id;

-- add_to_library: a file of the workspace's own; none when its content is there already
insert into library_file (workspace_id, member_id, sha256, media_type, name, size, description, made_at)
values (%(workspace_id)s, %(member_id)s, %(sha256)s, %(media_type)s, %(name)s, %(size)s, %(description)s, %(now)s)
on conflict do nothing returning id;

-- set_in_library: what it is called and what it shows
update library_file set name = %(name)s, description = %(description)s
where workspace_id = %(workspace_id)s and id = %(id)s returning id;

-- remove_from_library: what was sent of it stays
delete from library_file where workspace_id = %(workspace_id)s and id = %(id)s returning sha256;
