-- add_alerts: tells members something, each at most once, by the ways they have chosen; who is away is not disturbed by mail
with told as (
  insert into alert (workspace_id, member_id, occasion, words, conversation_id, key, at, by_mail, read_at)
  select %(workspace_id)s, w.member_id, %(occasion)s, %(words)s, %(conversation_id)s, %(key)s, %(now)s,
    coalesce(c.by_mail, %(by_mail)s) and not w.is_away, case when coalesce(c.in_app, true) then null else %(now)s::timestamptz end
  from (select ms.member_id, coalesce(a.away_from <= %(now)s and (a.away_until is null or a.away_until > %(now)s), false) as is_away
    from membership ms left join availability a on a.workspace_id = ms.workspace_id and a.member_id = ms.member_id
    where ms.workspace_id = %(workspace_id)s and ms.member_id = any(%(members)s::bigint[])
      and is_seen_by(ms.workspace_id, ms.member_id,
        (select c.account_id from conversation c where c.workspace_id = %(workspace_id)s and c.id = %(conversation_id)s))) w
  left join alert_choice c on c.workspace_id = %(workspace_id)s and c.member_id = w.member_id and c.occasion = %(occasion)s
  where coalesce(c.in_app, true) or (coalesce(c.by_mail, %(by_mail)s) and not w.is_away)
  on conflict (workspace_id, member_id, key) do nothing returning member_id
)
select member_id from told;

-- list_members_with: the members who see all accounts and whose role holds a permission
select ms.member_id from membership ms join role r on r.workspace_id = ms.workspace_id and r.key = ms.role
where ms.workspace_id = %(workspace_id)s and %(permission)s = any(r.permissions) and not ms.limited;

-- list_alerts: what a member was told, newest first
select id, occasion, words, conversation_id, at, read_at from alert
where workspace_id = %(workspace_id)s and member_id = %(member_id)s order by at desc, id desc limit %(limit)s;

-- count_unread: what a member was told and has not read
select count(*) from alert where workspace_id = %(workspace_id)s and member_id = %(member_id)s and read_at is null;

-- set_read: a member has read what they were told
update alert set read_at = %(now)s where workspace_id = %(workspace_id)s and member_id = %(member_id)s and read_at is null
  and (%(id)s::bigint is null or id = %(id)s);

-- list_to_mail: what is to be mailed now; what is older than that is news no more, and some addresses were refused lately
select a.id from alert a join member m on m.id = a.member_id
where a.workspace_id = %(workspace_id)s and a.by_mail and a.mailed_at is null and a.at > %(since)s and a.mail_next_at <= %(now)s
  and (m.mail_refused_at is null or m.mail_refused_at < %(refused_before)s)
order by a.mail_tries, a.id limit %(limit)s;

-- claim_mail: takes one alert to mail it, with what its letter says
update alert a set mail_next_at = %(lease_until)s, mail_tries = a.mail_tries + 1 from member m, workspace w
where a.workspace_id = %(workspace_id)s and a.id = %(id)s and a.mailed_at is null and a.mail_next_at <= %(now)s
  and m.id = a.member_id and w.id = a.workspace_id
  and is_seen_by(a.workspace_id, a.member_id, (select c.account_id from conversation c where c.id = a.conversation_id))
returning a.words, a.conversation_id, a.mail_tries, m.id as member_id, m.email, m.name, w.name as workspace;

-- set_mailed: a mail has gone out, or why it has not; without another time it is not tried again
update alert set mailed_at = %(at)s, problem = %(problem)s, mail_next_at = coalesce(%(again)s::timestamptz, 'infinity')
where workspace_id = %(workspace_id)s and id = %(id)s;

-- set_mail_refused: what the mail server said of a member's address, or that it takes it
update member set mail_refused = %(reason)s, mail_refused_at = %(at)s
where id = %(member_id)s and (mail_refused is distinct from %(reason)s or mail_refused_at is distinct from %(at)s);

-- list_choices: what a member wants to be told, and how
select occasion, in_app, by_mail, minutes from alert_choice
where workspace_id = %(workspace_id)s and member_id = %(member_id)s;

-- set_choice: what a member wants to be told from now on
insert into alert_choice (workspace_id, member_id, occasion, in_app, by_mail, minutes)
values (%(workspace_id)s, %(member_id)s, %(occasion)s, %(in_app)s, %(by_mail)s, %(minutes)s)
on conflict (workspace_id, member_id, occasion) do update set in_app = excluded.in_app, by_mail = excluded.by_mail,
  minutes = excluded.minutes;

-- list_late: owned work that became late a short while ago, or will be due within its owner's minutes
select c.id, c.owner_id, c.person_name, c.due, c.awaiting_since, c.due <= %(now)s as is_late
from conversation c left join alert_choice x on x.workspace_id = c.workspace_id and x.member_id = c.owner_id
  and x.occasion = 'due_soon'
where c.workspace_id = %(workspace_id)s and c.move in ('unsorted', 'our_move') and c.owner_id is not null
  and c.due > %(now)s::timestamptz - interval '1 hour' and c.due <= %(now)s::timestamptz + make_interval(mins => coalesce(x.minutes, 15))
order by c.due limit 500;
