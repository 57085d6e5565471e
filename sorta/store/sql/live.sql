-- tell: a live notice, sent when the transaction commits
select pg_notify('sorta_live', %(notice)s);
