-- get_false_alarms: how many false alarms a month are accepted
select false_alarms from workspace where id = %(workspace_id)s;

-- set_false_alarms: how many are accepted from now on
update workspace set false_alarms = %(false_alarms)s where id = %(workspace_id)s;

-- keep_hour: keeps an hour that is unusual, as far as it has come
insert into unusual_hour (workspace_id, begins_at, came, expected) values (%(workspace_id)s, %(begins_at)s, %(came)s, %(expected)s)
on conflict (workspace_id, begins_at) do update set came = greatest(unusual_hour.came, excluded.came), expected = excluded.expected;

-- list_hours: hours that were unusual since an instant, the latest first
select begins_at, came, expected from unusual_hour
where workspace_id = %(workspace_id)s and begins_at >= %(since)s order by begins_at desc;
