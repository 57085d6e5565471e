-- list_groups: the account groups, each with its accounts and members
select g.id, g.name, g.accounts, coalesce(array_agg(m.member_id order by m.member_id) filter (where m.member_id is not null), '{}') as members
from account_group g left join account_group_member m on m.group_id = g.id and m.workspace_id = g.workspace_id
where g.workspace_id = %(workspace_id)s group by g.id order by lower(g.name);

-- lock_groups: nobody changes a group until the transaction ends
select id from account_group where workspace_id = %(workspace_id)s order by id for update;

-- add_group: a new account group
insert into account_group (workspace_id, name, accounts) values (%(workspace_id)s, %(name)s, %(accounts)s) returning id;

-- set_group: what a group is called and which accounts it holds
update account_group set name = %(name)s, accounts = %(accounts)s where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_members: who looks after a group's accounts, and nobody else
with gone as (delete from account_group_member where workspace_id = %(workspace_id)s and group_id = %(id)s and member_id <> all(%(members)s::bigint[]))
insert into account_group_member (workspace_id, group_id, member_id)
select %(workspace_id)s, %(id)s, m from unnest(%(members)s::bigint[]) m on conflict do nothing;

-- set_groups_of: the groups that a member is in, and no other
with gone as (delete from account_group_member where workspace_id = %(workspace_id)s and member_id = %(member_id)s and group_id <> all(%(groups)s::bigint[]))
insert into account_group_member (workspace_id, group_id, member_id)
select %(workspace_id)s, g.id, %(member_id)s from account_group g where g.workspace_id = %(workspace_id)s and g.id = any(%(groups)s::bigint[])
on conflict do nothing;

-- delete_group: forgets a group; its accounts stay
delete from account_group where workspace_id = %(workspace_id)s and id = %(id)s;

-- list_naming: what names a group: rules and saved replies
select 'rule' as what, r.body->>'name' as name from rule r where r.workspace_id = %(workspace_id)s and r.removed_at is null
  and jsonb_path_exists(r.body, '$.**.groups[*] ? (@ == $which)', jsonb_build_object('which', %(id)s::bigint))
union all select 'saved reply', s.body->>'name' from saved_reply s where s.workspace_id = %(workspace_id)s and s.archived_at is null
  and s.body->'groups' @> to_jsonb(%(id)s::bigint);

-- list_blind: the members who are limited, each with an account they do not see
select a.id as account_id, m.member_id from membership m cross join account a
where m.workspace_id = %(workspace_id)s and a.workspace_id = %(workspace_id)s and m.limited and not is_seen_by(m.workspace_id, m.member_id, a.id)
  and (%(account_id)s::bigint is null or a.id = %(account_id)s);

-- is_seen_by: whether a member sees an account
select is_seen_by(%(workspace_id)s, %(member_id)s, %(account_id)s);

-- list_out_of_sight: open work of members who do not see it any more
select c.id, c.owner_id, m.name from membership ms join conversation c on c.workspace_id = ms.workspace_id and c.owner_id = ms.member_id and c.move <> 'settled'
join member m on m.id = ms.member_id
where ms.workspace_id = %(workspace_id)s and ms.limited and not is_seen_by(ms.workspace_id, ms.member_id, c.account_id) limit %(limit)s;

-- list_group_members: the members of the groups that hold an account, also of groups that who asks is not in
select group_id, member_id from list_group_members(%(workspace_id)s, %(account_id)s);
