-- add_entry: something that happened around who may do what
insert into security_event (workspace_id, member_id, kind, about)
values (%(workspace_id)s, %(member_id)s, %(kind)s, %(about)s);

-- list_entries: what happened in a workspace, and how its members signed in, the newest first
select e.id, e.at, e.kind, e.about, m.name from security_event e left join member m on m.id = e.member_id
where (%(before)s::bigint is null or e.id < %(before)s)
  and (e.workspace_id = %(workspace_id)s or (e.workspace_id is null and e.member_id in
    (select ms.member_id from membership ms where ms.workspace_id = %(workspace_id)s)))
order by e.id desc limit %(limit)s;
