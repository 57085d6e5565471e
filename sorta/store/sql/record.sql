-- list_entries: entries of the record of changes, the newest first
select n, said from record where workspace_id = %(workspace_id)s and (%(before)s::bigint is null or n < %(before)s)
  and (%(what)s::text is null or what = %(what)s) and (%(member_id)s::bigint is null or member_id = %(member_id)s)
  and (%(since)s::text is null or at >= %(since)s) and (%(until)s::text is null or at < %(until)s)
order by n desc limit %(limit)s;

-- list_chain: entries from one on, in the order in which they were written
select n, said, hash from record where workspace_id = %(workspace_id)s and n > %(after)s order by n limit %(limit)s;
