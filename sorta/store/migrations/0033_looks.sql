-- What each handle looks like (core.names.get_look), so that one that looks like another's is found. The clock computes it: null is to do.

alter table identity add column look text;
create index identity_look on identity (workspace_id, look) where look is not null;
create index identity_without_look on identity (workspace_id, id) where look is null;

create function forget_look() returns trigger language plpgsql as $$
begin
  new.look := null;
  return new;
end $$;
create trigger forget_look before update of handle on identity
  for each row when (old.handle is distinct from new.handle) execute function forget_look();
