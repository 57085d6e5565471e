-- list_columns: of every table of a workspace, the columns that are not made by themselves and may be read, and whether it numbers its rows
select c.relname as name, array_agg(a.attname::text order by a.attnum) filter (where a.attgenerated = '' and has_column_privilege(c.oid, a.attnum, 'select')) as columns,
  bool_or(a.attname = 'id' and a.attidentity <> '') as numbers
from pg_class c join pg_attribute a on a.attrelid = c.oid and a.attnum > 0 and not a.attisdropped
where c.relkind = 'r' and c.relnamespace = 'public'::regnamespace
  and exists (select from pg_attribute w where w.attrelid = c.oid and w.attname = 'workspace_id') group by c.relname order by c.relname;

-- list_references: which table points at which
select distinct c.conrelid::regclass::text as name, c.confrelid::regclass::text as target from pg_constraint c
where c.contype = 'f' and c.connamespace = 'public'::regnamespace and c.conrelid <> c.confrelid;

-- list_migrations: by which the schema was made
select migration_id from _yoyo_migration order by 1;

-- get_workspace: the whole row
select to_jsonb(w) as row from workspace w where id = %(workspace_id)s;

-- list_members: what goes along of members
select id, email, name, initials from member where id = any(%(ids)s) order by id;

-- set_workspace: what it is, as it was there, with everything outgoing held
update workspace w set rules_version = r.rules_version, ask_next_after = r.ask_next_after, mail_domains = r.mail_domains, spells_told = r.spells_told,
  false_alarms = r.false_alarms, description = r.description, languages = r.languages, colour = r.colour, picture = r.picture, send_settles = r.send_settles, needs_second = r.needs_second, start_skipped = r.start_skipped, held_at = %(now)s, held_reason = %(reason)s
from jsonb_populate_record(null::workspace, %(row)s::jsonb) r where w.id = %(workspace_id)s;

-- has_slug: whether a short link is taken
select exists (select from link where slug = %(slug)s);
