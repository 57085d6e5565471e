-- tell: a live notice, sent when the transaction commits
select pg_notify('sorta_live', %(notice)s);

-- list_seen: which of these the transaction sees; {table} is a fragment of `live.py`
select id from {table} where workspace_id = %(workspace_id)s and id = any(%(ids)s) order by id;
