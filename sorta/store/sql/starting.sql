-- get_start: how far a workspace is set up
select w.description <> '' as about, w.start_skipped as skipped,
  exists (select from workspace_hours h where h.workspace_id = w.id) as hours,
  exists (select from account a where a.workspace_id = w.id) as account,
  (select count(*) from membership ms where ms.workspace_id = w.id) > 1 or exists (select from invitation i where i.workspace_id = w.id
    and i.taken_at is null and i.cancelled_at is null) as colleagues,
  exists (select from rule r where r.workspace_id = w.id and r.removed_at is null) as rules
from workspace w where w.id = %(workspace_id)s;

-- set_skipped: steps that are passed over
update workspace set start_skipped = %(skipped)s where id = %(workspace_id)s;
