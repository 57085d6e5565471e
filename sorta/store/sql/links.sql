-- list_kept: the links that texts call by a name
select id, name, target, changed_by, changed_at from kept_link where workspace_id = %(workspace_id)s order by name;

-- set_kept: keeps a link under a name
insert into kept_link (workspace_id, name, target, changed_by, changed_at)
values (%(workspace_id)s, %(name)s, %(target)s, %(member_id)s, %(now)s)
on conflict (workspace_id, name) do update set target = excluded.target, changed_by = excluded.changed_by, changed_at = excluded.changed_at
returning id;

-- remove_kept: keeps it no longer
delete from kept_link where workspace_id = %(workspace_id)s and id = %(id)s returning name;

-- get_kept: one kept link
select id, name, target from kept_link where workspace_id = %(workspace_id)s and id = %(id)s;

-- add_link: a short link for a target, or the one there is
insert into link (workspace_id, slug, target, account_id, made_by, made_at)
values (%(workspace_id)s, %(slug)s, %(target)s, %(account_id)s, %(member_id)s, %(now)s)
on conflict (workspace_id, coalesce(account_id, 0), md5(target)) do update set target = link.target
returning slug;

-- find_link: a short link by its slug, for anybody
select workspace_id, id, target from link where slug = %(slug)s;

-- add_click: somebody opened a short link
insert into click (workspace_id, link_id, at, apart) values (%(workspace_id)s, %(link_id)s, %(now)s, %(apart)s);

-- list_links: the short links with their clicks, the most clicked first
select l.id, l.slug, l.target, l.account_id, l.made_by, l.made_at, count(k.id) filter (where k.apart is null) as clicks,
  count(k.id) filter (where k.apart is null and k.at >= %(since)s) as lately,
  count(k.id) filter (where k.apart is not null) as apart, max(k.at) filter (where k.apart is null) as last_at
from link l left join click k on k.link_id = l.id
where l.workspace_id = %(workspace_id)s group by l.id order by clicks desc, l.id desc limit 500;
