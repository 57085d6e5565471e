-- add_attachment: a file to be sent along, not held by an answer yet
insert into attachment (workspace_id, conversation_id, member_id, sha256, media_type, name, size, made_at)
values (%(workspace_id)s, %(conversation_id)s, %(member_id)s, %(sha256)s, %(media_type)s, %(name)s, %(size)s, %(now)s)
returning id;

-- list_attachments: files by number, in the order of the numbers
select id, conversation_id, member_id, sha256, media_type, name, size, used_at from attachment
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
  (select coalesce(sum(size), 0)::bigint from (select distinct on (sha256) size from attachment
    where workspace_id = %(workspace_id)s order by sha256) c) as in_workspace;

-- list_needed: of these contents, those that a file still has
select distinct sha256 from attachment where workspace_id = %(workspace_id)s and sha256 = any(%(sha256s)s);
