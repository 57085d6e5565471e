-- list_candidates: the members of a team with what they have open, whether they are there, and when they last got one or knew the person
select tm.member_id, m.name, t.way, coalesce(o.open, 0) as open, coalesce(o.load, 0)::float8 as load,
  coalesce(a.capacity, 40) as capacity, coalesce(a.languages, '{}') as languages,
  coalesce(a.away_from <= %(now)s and (a.away_until is null or a.away_until > %(now)s), false) as is_away, a.shift,
  tt.given_at, (select max(x.sent_at) from message x join conversation c on c.id = x.conversation_id
    where c.person_id = %(person_id)s and c.workspace_id = %(workspace_id)s and x.member_id = tm.member_id) as knew_at
from team t join team_member tm on tm.team_id = t.id and tm.workspace_id = t.workspace_id
join member m on m.id = tm.member_id
left join availability a on a.workspace_id = t.workspace_id and a.member_id = tm.member_id
left join team_turn tt on tt.team_id = t.id and tt.member_id = tm.member_id
left join lateral (select count(*) as open, sum((array[0.5, 1, 2, 4])[c.priority + 1]) as load from conversation c
  where c.workspace_id = %(workspace_id)s and c.owner_id = tm.member_id and c.move in ('unsorted', 'our_move', 'in_review')) o on true
where t.workspace_id = %(workspace_id)s and t.id = %(team_id)s and is_seen_by(t.workspace_id, tm.member_id, %(account_id)s)
order by tm.member_id;

-- set_turns: members were given one by their teams
insert into team_turn (team_id, member_id, workspace_id, given_at)
select t.team_id, t.member_id, %(workspace_id)s, t.given_at
from unnest(%(teams)s::bigint[], %(members)s::bigint[], %(times)s::timestamptz[]) with ordinality as t (team_id, member_id, given_at, n)
order by t.n
on conflict (team_id, member_id) do update set given_at = excluded.given_at;

-- list_loads: every member of the workspace with what is open by move and priority, late, and whether they are there
select m.id as member_id, m.name, m.initials, r.name as role, r.permissions, coalesce(a.capacity, 40) as capacity,
  coalesce(a.languages, '{}') as languages, a.away_from, a.away_until, a.away_reason, a.shift,
  coalesce((select json_agg(json_build_object('move', g.move, 'priority', g.priority, 'n', g.n, 'late', g.late)) from (
    select c.move, c.priority, count(*) as n, count(*) filter (where c.due < %(now)s) as late from conversation c
    where c.workspace_id = %(workspace_id)s and c.owner_id = m.id and c.move <> 'settled'
    group by c.move, c.priority) g), '[]') as open
from membership ms join member m on m.id = ms.member_id join role r on r.workspace_id = ms.workspace_id and r.key = ms.role
left join availability a on a.workspace_id = ms.workspace_id and a.member_id = m.id
where ms.workspace_id = %(workspace_id)s order by m.name, m.id;

-- list_work: the open work that members have in hand, for evening out
select c.id, c.owner_id, c.team_id, c.account_id, c.priority, c.language, c.person_name, c.preview, c.network, c.due, c.move,
  exists (select from draft d where d.conversation_id = c.id) as is_drafted,
  cardinality(c.advice_waiting) > 0 or jsonb_array_length(c.answering) > 0
    or exists (select from presence p where p.workspace_id = c.workspace_id and p.conversation_id = c.id
      and p.member_id = c.owner_id and p.at > %(present)s)
    or exists (select from scheduled_reply s where s.workspace_id = c.workspace_id and s.conversation_id = c.id
      and s.state = 'waiting') as is_busy,
  exists (select from message m where m.workspace_id = c.workspace_id and m.conversation_id = c.id
    and m.member_id = c.owner_id) as is_begun
from conversation c where c.workspace_id = %(workspace_id)s and c.owner_id is not null
  and c.move in ('unsorted', 'our_move', 'in_review') order by c.sort_due, c.sort_rank, c.id limit 2000;

-- set_availability: when a member works, and how much, from now on
insert into availability (workspace_id, member_id, capacity, languages, away_from, away_until, away_reason, shift)
values (%(workspace_id)s, %(member_id)s, %(capacity)s, %(languages)s, %(away_from)s, %(away_until)s, %(away_reason)s, %(shift)s)
on conflict (workspace_id, member_id) do update set capacity = excluded.capacity, languages = excluded.languages,
  away_from = excluded.away_from, away_until = excluded.away_until, away_reason = excluded.away_reason, shift = excluded.shift;

-- set_team: what a team is called, and who is in it and nobody else
with named as (update team set name = %(name)s where workspace_id = %(workspace_id)s and id = %(id)s),
gone as (delete from team_member where workspace_id = %(workspace_id)s and team_id = %(id)s and member_id <> all(%(members)s::bigint[]))
insert into team_member (workspace_id, team_id, member_id)
select %(workspace_id)s, %(id)s, m from unnest(%(members)s::bigint[]) m on conflict do nothing;

-- set_way: how a team chooses
update team set way = %(way)s where workspace_id = %(workspace_id)s and id = %(team_id)s returning id;
