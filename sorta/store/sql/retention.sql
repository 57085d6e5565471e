-- alerts: what members were told
delete from alert where id in (select id from alert where workspace_id = %(workspace_id)s and at < %(before)s limit %(limit)s);

-- aside_taken: what was kept aside and taken in after all
delete from aside where id in (select id from aside where workspace_id = %(workspace_id)s and taken_at < %(before)s limit %(limit)s);

-- aside: what was kept aside and nobody took in
delete from aside where id in (select id from aside where workspace_id = %(workspace_id)s and taken_at is null and received_at < %(before)s
  limit %(limit)s);

-- early_changes: edits and removals of messages that never came
delete from early_change where id in (select id from early_change where workspace_id = %(workspace_id)s and at < %(before)s limit %(limit)s);

-- clicks: clicks on short links
delete from click where id in (select id from click where workspace_id = %(workspace_id)s and at < %(before)s limit %(limit)s);

-- clicks_apart: clicks of programs and members, which are not counted
delete from click where id in (select id from click where workspace_id = %(workspace_id)s and apart is not null and at < %(before)s
  limit %(limit)s);

-- translations: translations of messages, made again when they are asked for
delete from translation where id in (select id from translation where workspace_id = %(workspace_id)s and what = 'translated' and at < %(before)s
  limit %(limit)s);

-- rule_hits: what rules did, once it needs no look any more
delete from rule_hit where id in (select id from rule_hit where workspace_id = %(workspace_id)s and at < %(before)s
  and (not to_review or reviewed_at is not null) limit %(limit)s);

-- read_marks: how far members had read in conversations settled long ago
delete from read_mark r where (r.member_id, r.conversation_id) in (select x.member_id, x.conversation_id
  from read_mark x join conversation c on c.id = x.conversation_id
  where x.workspace_id = %(workspace_id)s and c.workspace_id = %(workspace_id)s and c.move = 'settled' and c.last_at < %(before)s limit %(limit)s);

-- acts_done: acts that networks were asked for and that are over; answers stay beside their messages
delete from outbox where id in (select id from outbox where workspace_id = %(workspace_id)s and what <> 'reply'
  and state in ('delivered', 'refused', 'withdrawn') and queued_at < %(before)s limit %(limit)s);

-- tally_zeros: counts that have come to nothing
delete from tally where workspace_id = %(workspace_id)s and n = 0 and %(before)s::timestamptz is not null and %(limit)s > 0;

-- security_events: what happened around who may do what
delete from security_event where id in (select id from security_event where at < %(before)s limit %(limit)s);

-- sessions: sessions that have run out
delete from session where token_hash in (select token_hash from session where expires_at < %(before)s limit %(limit)s);

-- devices: devices nobody signs in on any more
delete from device where token_hash in (select token_hash from device where seen_at < %(before)s limit %(limit)s);

-- sign_in_failures: tries to sign in that slow nobody any more
delete from sign_in_failure where key in (select key from sign_in_failure where last_at < %(before)s limit %(limit)s);

-- jobs: jobs that failed, or that a worker left behind when it was killed; what they were about is taken up by the clock
delete from procrastinate_jobs where id in (
  select j.id from procrastinate_jobs j left join procrastinate_workers w on w.id = j.worker_id
  where (j.status in ('failed', 'cancelled', 'aborted', 'succeeded')
    and exists (select from procrastinate_events e where e.job_id = j.id having max(e.at) < %(before)s))
  or (j.status = 'doing' and (w.id is null or w.last_heartbeat < %(before)s)) limit %(limit)s);

-- invitations: invitations that nobody took
delete from invitation where id in (select id from invitation where workspace_id = %(workspace_id)s and taken_at is null
  and expires_at < %(before)s limit %(limit)s);

-- password_links: links by which a forgotten password was set anew, or can be no more
delete from password_link where token_hash in (select token_hash from password_link where expires_at < %(before)s limit %(limit)s);

-- grant_tries: tries at a network's page that led somewhere, or can lead nowhere any more
delete from grant_try where id in (select id from grant_try where workspace_id = %(workspace_id)s and expires_at < %(before)s limit %(limit)s);

-- hook_events: what programs were told, or not
delete from hook_event where id in (select id from hook_event where workspace_id = %(workspace_id)s and made_at < %(before)s limit %(limit)s);

-- phone_tries: codes for a phone's number, and how many were sent
delete from phone_try where member_id in (select member_id from phone_try where began_at < %(before)s and expires_at < %(before)s limit %(limit)s);

-- list_choices: how long a workspace keeps what it has chosen for
select name, days from retention_choice where workspace_id = %(workspace_id)s;

-- set_choice: how long a workspace keeps a kind of things
insert into retention_choice (workspace_id, name, days) values (%(workspace_id)s, %(name)s, %(days)s)
on conflict (workspace_id, name) do update set days = excluded.days;

-- list_people: people nobody has heard of since, by anything of theirs, with whom nothing is open
select p.id from person p where p.workspace_id = %(workspace_id)s and p.erased_at is null and p.joined_to is null and p.first_at < %(before)s
  and not exists (select from conversation c where c.person_id = p.id and (c.move <> 'settled' or c.last_at >= %(before)s))
  and not exists (select from identity i join reaction r on r.identity_id = i.id where i.person_id = p.id and r.at >= %(before)s)
  and not exists (select from follow_up f where f.person_id = p.id and f.done_at is null)
  and not exists (select from outbox o join conversation c on c.id = o.conversation_id
    where c.person_id = p.id and o.state in ('queued', 'sending', 'waiting'))
order by p.id limit %(limit)s;
