-- get_picture: of a workspace
select image from workspace_picture where workspace_id = %(workspace_id)s;

-- set_picture: in the place of the one before
with named as (update workspace set picture = %(sha256)s where id = %(workspace_id)s)
insert into workspace_picture (workspace_id, image) values (%(workspace_id)s, %(image)s)
on conflict (workspace_id) do update set image = excluded.image;

-- remove_picture: none from now on
with named as (update workspace set picture = null where id = %(workspace_id)s)
delete from workspace_picture where workspace_id = %(workspace_id)s;
