-- Invitations that nobody took go, a while after they have run out.
grant delete on invitation to sorta_app;

-- Who worked in a workspace and does no more: their names stay readable, and whom their work goes to; nobody in particular is none.
create table former_member (
  workspace_id bigint not null references workspace,
  member_id bigint not null references member,
  role text not null,
  left_at timestamptz not null,
  let_go_by bigint not null references member,
  to_owner bigint references member,
  to_team bigint references team,
  primary key (workspace_id, member_id)
);
alter table former_member enable row level security;
alter table former_member force row level security;
create policy in_workspace on former_member using (workspace_id = (select chosen_workspace()))
  with check (workspace_id = (select chosen_workspace()));
grant select, insert, update, delete on former_member to sorta_app;
grant delete on membership to sorta_app;
