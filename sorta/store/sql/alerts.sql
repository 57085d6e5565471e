-- list_wants: of these members those who see what it is about: how each wants to be told of an occasion, by their choice or the
-- workspace's, when they are not to be disturbed, and whether they are away
select ms.member_id, coalesce(a.away_from <= %(now)s and (a.away_until is null or a.away_until > %(now)s), false) as is_away, w.time_zone,
  coalesce(c.in_app, d.in_app) as here, coalesce(c.on_device, d.on_device) as device, coalesce(c.by_mail, d.by_mail) as mail,
  coalesce(c.by_text, d.by_text) as text, m.phone is not null as has_phone, h.quiet_from, h.quiet_until, coalesce(h.digest, 'at_once') as digest
from membership ms join workspace w on w.id = ms.workspace_id join member m on m.id = ms.member_id
left join availability a on a.workspace_id = ms.workspace_id and a.member_id = ms.member_id
left join alert_choice c on c.workspace_id = ms.workspace_id and c.member_id = ms.member_id and c.occasion = %(occasion)s
left join alert_default d on d.workspace_id = ms.workspace_id and d.occasion = %(occasion)s
left join alert_habit h on h.workspace_id = ms.workspace_id and h.member_id = ms.member_id
where ms.workspace_id = %(workspace_id)s and ms.member_id = any(%(members)s::bigint[])
  and is_seen_by(ms.workspace_id, ms.member_id,
    (select c.account_id from conversation c where c.workspace_id = %(workspace_id)s and c.id = %(conversation_id)s))
order by ms.member_id;

-- add_alerts: tells members something, each at most once, with the ways it leaves by: [{member, here, device, ways: {way: instant}}]
with given as (
  select (g ->> 'member')::bigint as member_id, (g ->> 'here')::boolean as here, (g ->> 'device')::boolean as device, g -> 'ways' as ways
  from jsonb_array_elements(%(given)s::jsonb) g
), told as (
  insert into alert (workspace_id, member_id, occasion, words, conversation_id, key, at, on_device, read_at)
  select %(workspace_id)s, member_id, %(occasion)s, %(words)s, %(conversation_id)s, %(key)s, %(now)s, device,
    case when not here then %(now)s::timestamptz end
  from given order by member_id on conflict (workspace_id, member_id, key) do nothing returning id, member_id
), leaving as (
  insert into alert_way (alert_id, way, workspace_id, member_id, leaves_at, next_at)
  select t.id, w.key, %(workspace_id)s, t.member_id, w.value::timestamptz, w.value::timestamptz
  from told t join given g on g.member_id = t.member_id cross join lateral jsonb_each_text(g.ways) w
)
select member_id from told;

-- list_members_with: the members who see all accounts and whose role holds a permission
select ms.member_id from membership ms join role r on r.workspace_id = ms.workspace_id and r.key = ms.role
where ms.workspace_id = %(workspace_id)s and %(permission)s = any(r.permissions) and not ms.limited;

-- list_alerts: what a member was told, newest first
select id, occasion, words, conversation_id, at, read_at, on_device from alert
where workspace_id = %(workspace_id)s and member_id = %(member_id)s order by at desc, id desc limit %(limit)s;

-- count_unread: what a member was told and has not read
select count(*) from alert where workspace_id = %(workspace_id)s and member_id = %(member_id)s and read_at is null;

-- set_read: a member has read what they were told
update alert set read_at = %(now)s where workspace_id = %(workspace_id)s and member_id = %(member_id)s and read_at is null
  and (%(id)s::bigint is null or id = %(id)s);

-- list_to_send: the members for whom something is to leave by a way; what should have long ago is news no more, and what some
-- were refused lately is left alone
select y.member_id from alert_way y join member m on m.id = y.member_id
where y.workspace_id = %(workspace_id)s and y.way = %(way)s and y.sent_at is null and y.leaves_at > %(since)s and y.next_at <= %(now)s
  and coalesce(case y.way when 'mail' then m.mail_refused_at else m.text_refused_at end < %(refused_before)s, true)
group by y.member_id order by min(y.tries), min(y.alert_id) limit %(limit)s;

-- claim: takes what leaves together for a member: what was tried together before, or all there is now; with what it says
with waiting as (
  select y.alert_id, y.batch from alert_way y join alert a on a.id = y.alert_id
  where y.workspace_id = %(workspace_id)s and y.way = %(way)s and y.member_id = %(member_id)s and y.sent_at is null
    and y.leaves_at > %(since)s and y.next_at <= %(now)s
    and is_seen_by(y.workspace_id, y.member_id, (select c.account_id from conversation c where c.id = a.conversation_id))
  order by y.alert_id for update of y skip locked
), first as (
  select min(batch) as batch, min(alert_id) as alert_id from waiting
), taken as (
  update alert_way y set next_at = %(lease_until)s, tries = y.tries + 1, batch = coalesce(f.batch, f.alert_id)
  from waiting w, first f where y.alert_id = w.alert_id and y.way = %(way)s and w.batch is not distinct from f.batch
    and y.alert_id in (select alert_id from waiting order by alert_id limit %(limit)s)
  returning y.alert_id, y.tries, y.batch, y.leaves_at
)
select t.alert_id, t.tries, t.batch, t.leaves_at, a.words, a.conversation_id, m.email, m.phone, m.name, w.name as workspace
from taken t join alert a on a.id = t.alert_id join member m on m.id = %(member_id)s join workspace w on w.id = %(workspace_id)s
order by t.alert_id;

-- set_sent: it has left, or why it has not; without another time it is not tried again
update alert_way set sent_at = %(at)s, problem = %(problem)s, next_at = coalesce(%(again)s::timestamptz, 'infinity')
where workspace_id = %(workspace_id)s and way = %(way)s and alert_id = any(%(ids)s);

-- set_mail_refused: what the mail server said of a member's address, or that it takes it
update member set mail_refused = %(reason)s, mail_refused_at = %(at)s
where id = %(member_id)s and (mail_refused is distinct from %(reason)s or mail_refused_at is distinct from %(at)s);

-- set_text_refused: what the gateway said of a member's number, or that it takes it
update member set text_refused = %(reason)s, text_refused_at = %(at)s
where id = %(member_id)s and (text_refused is distinct from %(reason)s or text_refused_at is distinct from %(at)s);

-- list_choices: what a member wants to be told, and how
select occasion, in_app as here, on_device as device, by_mail as mail, by_text as text, minutes from alert_choice
where workspace_id = %(workspace_id)s and member_id = %(member_id)s;

-- set_choice: what a member wants to be told from now on
insert into alert_choice (workspace_id, member_id, occasion, in_app, on_device, by_mail, by_text, minutes)
values (%(workspace_id)s, %(member_id)s, %(occasion)s, %(here)s, %(device)s, %(mail)s, %(text)s, %(minutes)s)
on conflict (workspace_id, member_id, occasion) do update set in_app = excluded.in_app, on_device = excluded.on_device,
  by_mail = excluded.by_mail, by_text = excluded.by_text, minutes = excluded.minutes;

-- forget_choices: from now on what applies in the workspace applies to a member
delete from alert_choice where workspace_id = %(workspace_id)s and member_id = %(member_id)s;

-- list_defaults: what applies for who has chosen nothing, where that is another than Sorta's own
select occasion, in_app as here, on_device as device, by_mail as mail, by_text as text, minutes from alert_default where workspace_id = %(workspace_id)s;

-- set_default: what applies for who has chosen nothing
insert into alert_default (workspace_id, occasion, in_app, on_device, by_mail, by_text, minutes)
values (%(workspace_id)s, %(occasion)s, %(here)s, %(device)s, %(mail)s, %(text)s, %(minutes)s)
on conflict (workspace_id, occasion) do update set in_app = excluded.in_app, on_device = excluded.on_device,
  by_mail = excluded.by_mail, by_text = excluded.by_text, minutes = excluded.minutes;

-- get_habits: when a member is not to be disturbed, how their mails are gathered, and where text messages go
select h.quiet_from, h.quiet_until, coalesce(h.digest, 'at_once') as digest, m.phone, m.mail_refused, m.text_refused
from member m left join alert_habit h on h.workspace_id = %(workspace_id)s and h.member_id = m.id where m.id = %(member_id)s;

-- set_habits: when a member is not to be disturbed, and how their mails are gathered
insert into alert_habit (workspace_id, member_id, quiet_from, quiet_until, digest)
values (%(workspace_id)s, %(member_id)s, %(quiet_from)s, %(quiet_until)s, %(digest)s)
on conflict (workspace_id, member_id) do update set quiet_from = excluded.quiet_from, quiet_until = excluded.quiet_until, digest = excluded.digest;

-- list_due_follow_ups: what members have to do about people since a short while ago
select f.id, f.member_id, f.words, f.due_at, p.name from follow_up f join person p on p.id = f.person_id
where f.workspace_id = %(workspace_id)s and f.done_at is null and f.due_at <= %(now)s and f.due_at > %(now)s::timestamptz - interval '1 hour'
order by f.due_at limit 500;

-- list_names: members and what they are called
select ms.member_id, m.name from membership ms join member m on m.id = ms.member_id where ms.workspace_id = %(workspace_id)s order by 1;

-- list_late: owned work that became late a short while ago, or will be due within its owner's minutes
select c.id, c.owner_id, c.person_name, c.due, c.awaiting_since, c.due <= %(now)s as is_late
from conversation c left join alert_choice x on x.workspace_id = c.workspace_id and x.member_id = c.owner_id
  and x.occasion = 'due_soon' left join alert_default d on d.workspace_id = c.workspace_id and d.occasion = 'due_soon'
where c.workspace_id = %(workspace_id)s and c.move in ('unsorted', 'our_move') and c.owner_id is not null
  and c.due > %(now)s::timestamptz - interval '1 hour' and c.due <= %(now)s::timestamptz + make_interval(mins => coalesce(x.minutes, d.minutes, 15))
order by c.due limit 500;

-- begin_phone: a code is sent to a number; how many were within a day. A new one takes the place of the last
insert into phone_try (member_id, phone, code_hash, began_at, expires_at)
values (%(member_id)s, %(phone)s, %(code_hash)s, %(now)s, %(until)s)
on conflict (member_id) do update set phone = excluded.phone, code_hash = excluded.code_hash, expires_at = excluded.expires_at, tries = 0,
  sent = case when phone_try.began_at < %(a_day_ago)s then 1 else phone_try.sent + 1 end,
  began_at = case when phone_try.began_at < %(a_day_ago)s then excluded.began_at else phone_try.began_at end
returning sent;

-- count_phone_try: one more try to say the code, with the code as it is known
update phone_try set tries = tries + 1 where member_id = %(member_id)s and expires_at > %(now)s returning phone, code_hash, tries;

-- set_phone: where a member is sent text messages, or nowhere; the code is used up
with used as (update phone_try set expires_at = '-infinity' where member_id = %(member_id)s)
update member set phone = %(phone)s, text_refused = null, text_refused_at = null where id = %(member_id)s;

-- list_watches: what members want to hear of when it comes in; of one, or of all
select id, member_id, accounts, kinds, words from alert_watch
where workspace_id = %(workspace_id)s and (%(member_id)s::bigint is null or member_id = %(member_id)s) order by id;

-- add_watch: one more
insert into alert_watch (workspace_id, member_id, accounts, kinds, words)
values (%(workspace_id)s, %(member_id)s, %(accounts)s, %(kinds)s, %(words)s) returning id;

-- delete_watch: one less
delete from alert_watch where workspace_id = %(workspace_id)s and member_id = %(member_id)s and id = %(id)s;
