"""A workspace carried to another installation: everything of it, nothing that lets anybody in, the same reports there, and no number of the old place left.

That no number is forgotten is seen by an installation whose numbers say what they are of: each table counts in a span of its own, so that one that is left anywhere is found by what it is.
"""

import io
import json
import zipfile
from collections.abc import AsyncIterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import psycopg
import pytest

from dev.cluster import Cluster
from sorta.core import carrying as core
from sorta.core.errors import Impossible, Invalid
from sorta.core.periods import Named
from sorta.core.rules import AccountIs, AddTags, Conditions, GiveTo, LetWatch, PersonHasTag, RuleBody, TellMembers
from sorta.core.texts import SavedReplyBody
from sorta.services import (
    acts,
    answers,
    carrying,
    delivery,
    draws,
    groups,
    looks,
    reports,
    rules,
    sorting,
    spells,
    tags,
    texts,
)
from sorta.services.checking import find_differences
from sorta.services.house import House, Scope
from sorta.services.reports import Ask
from sorta.services.roles import read_role
from sorta.store import carrying as store
from sorta.store import people
from tests.conftest import NOW
from tests.services import test_draws
from tests.services.test_erasing import plant
from tests.services.test_looks import draw as draw_picture
from tests.services.test_one_matter import ask_in_private
from tests.world import Furnished, World, furnish, get_outside, make_house, make_world, name_database

pytestmark = pytest.mark.anyio
SPAN = 20_000_011


def spread(conn: psycopg.Connection[Any]) -> dict[int, str]:
    """Have each table count in a span of its own; which is whose."""
    rows = conn.execute(
        "select c.relname from pg_attribute a join pg_class c on c.oid = a.attrelid where a.attidentity <> ''"
        " and c.relnamespace = 'public'::regnamespace and c.relname !~ '^(procrastinate|_yoyo|yoyo)' order by 1"
    ).fetchall()
    spans = {}
    for n, (table,) in enumerate(rows, 1):
        conn.execute(f"alter table {table} alter column id restart with {n * SPAN}")
        spans[n] = table
    return spans


@pytest.fixture(scope="module")
async def spans() -> dict[int, str]:
    return {}


@pytest.fixture
async def there(pg: Cluster, tmp_path: Path, spans: dict[int, str]) -> AsyncIterator[World]:
    """A world in an installation whose numbers say what they are of."""
    pg.create_database("spread", "template_sorta")
    with pg.admin("spread") as conn:
        spans |= spread(conn)
        conn.commit()
    made: Furnished = await furnish(pg.conninfo("sorta_web", "spread"), NOW, tmp_path / "furnished")
    async with make_world(pg.conninfo("sorta_web", "spread"), NOW, tmp_path / "there", made) as world:
        yield world
    pg.drop_database("spread")


@pytest.fixture
async def here(pg: Cluster, tmp_path: Path) -> AsyncIterator[House]:
    """Another installation, in which there is nobody yet."""
    pg.create_database("another", "template_sorta")
    async with make_house(pg.conninfo("sorta_web", "another"), NOW, tmp_path / "here", get_outside()) as world:
        yield world.house
    pg.drop_database("another")


async def fill(world: World, pg: Cluster) -> None:
    """Something of everything that a workspace keeps."""
    house, mara, noor = world.house, world.scopes["mara"], world.scopes["noor"]
    ilse = world.scopes["ilse"].member_id
    tag = await tags.get_tag(house, mara, "animal care", make=True)
    team = await sorting.add_team(house, world.workspace_id, "Night desk", [ilse, mara.member_id])
    account = world.accounts["commonfold"].id
    group = await groups.make_group(house, world.workspace_id, "Sea", [account], [ilse])
    saved = await texts.add_saved_reply(
        house,
        mara,
        SavedReplyBody(name="Hours", text="We open at ten.", accounts=(account,), groups=(group,)),
        world.now,
    )
    when = Conditions(parts=(AccountIs(accounts=(account,), groups=(group,)), PersonHasTag(tags=(tag,))))
    then = (AddTags(tags=(tag,)), GiveTo(team=team), LetWatch(members=(ilse,)), TellMembers(members=(ilse,)))
    await rules.add_rule(house, mara, RuleBody(name="Animals", when=when, then=then), on=True, now=world.now)
    asked, _ = await ask_in_private(world)
    await acts.tag(house, mara, asked, name="animal care", on=True, now=world.now)
    await acts.tag_person(house, mara, asked, name="animal care", on=True, now=world.now)
    await acts.watch(house, mara, asked, on=True, now=world.now)
    ruled = await world.hear("The ray again", at=world.after(minutes=20))
    # Answered with a saved reply and a file, from what was kept; a draft with a file beside it.
    row = await world.row(ruled)
    await answers.reply(
        house, mara, ruled, public=True, text="We open at ten: https://brinewick.example/hours", seen_seq=row["seq"], settle=True,
        now=world.after(minutes=30), extras=answers.Extras(saved_reply=saved),
    )  # fmt: skip
    await looks.set_picture(house, noor, draw_picture())
    await plant(world, pg)
    post, _ = await test_draws.contest(world)
    draw = await test_draws.announce(world, post, staff=(tag,))
    await test_draws.draw(world, draw)
    for number in range(12):
        await world.hear(f"How long is the queue, {number}?", handle=f"guest{number}", at=world.after(hours=number / 4))
    with pg.admin(name_database(world)) as conn:
        for statement in (
            "insert into saved_view (workspace_id, member_id, name, shared, query) values (%(ws)s, %(m)s, 'v', true,"
            " jsonb_build_object('team', jsonb_build_array(%(t)s::text), 'owner', jsonb_build_array('me', %(m)s::text), 'tag', jsonb_build_array(%(tag)s)))",
            "insert into kept_report (workspace_id, member_id, name, shared, query, kept_at) values (%(ws)s, %(m)s, 'r', true,"
            " 'period=last_7&team=' || %(t)s::text || '&account=' || %(a)s::text || '&person_tag=' || %(tag)s::text, now())",
            "insert into link (workspace_id, slug, target, account_id, made_by, made_at) values (%(ws)s, 'abc', 'https://brinewick.example', %(a)s, %(m)s, now())",
            "insert into click (workspace_id, link_id, at) select workspace_id, id, now() from link",
            "insert into alert_watch (workspace_id, member_id, accounts, kinds, words) values (%(ws)s, %(m)s, array[%(a)s::bigint], '{}', '{}')",
            "update draft set attachments = (select array_agg(id) from attachment)",
            "update workspace set needs_second = true where id = %(ws)s",
        ):
            conn.execute(
                statement,
                {"ws": world.workspace_id, "m": noor.member_id, "t": team, "a": account, "tag": tag},
            )
        conn.commit()


async def take_out(world: World) -> bytes:
    file = io.BytesIO()
    await carrying.carry_out(world.house, world.workspace_id, file, world.after(days=3))
    return file.getvalue()


def read_all(pg: Cluster, database: str, workspace_id: int) -> dict[str, list[dict[str, Any]]]:
    """Every row of a workspace, of what goes along."""
    with pg.admin(database) as conn:
        tables = conn.execute(
            "select c.table_name from information_schema.columns c join pg_tables t on t.tablename = c.table_name"
            " where c.column_name = 'workspace_id'"
        ).fetchall()
        return {
            str(table): [
                row
                for (row,) in conn.execute(f"select to_jsonb(t) from {table} t where workspace_id = %s", [workspace_id])
            ]
            for (table,) in sorted(tables)
            if table not in core.STAYS
        }


def find_numbers(value: Any, spans: dict[int, str], path: str) -> dict[str, str]:
    """Where a number of the old place stands, and what it is of."""
    found: dict[str, str] = {}
    if isinstance(value, dict):
        for key, one in value.items():
            found |= find_numbers(one, spans, f"{path}.{key}") | find_numbers(key, spans, f"{path} key")
    elif isinstance(value, list):
        for one in value:
            found |= find_numbers(one, spans, f"{path}[]")
    elif isinstance(value, str) and path.endswith(("query", "query[]")):
        for one in value.replace("=", "&").split("&"):
            if one.isdigit():
                found |= find_numbers(int(one), spans, path)
    elif isinstance(value, str) and value.isdigit() and len(value) > 7:
        found |= find_numbers(int(value), spans, path)
    elif isinstance(value, int) and not isinstance(value, bool):
        span, rest = divmod(value, SPAN)
        if span in spans and rest < 100_000:
            found[path] = spans[span]
    return found


async def test_everything_goes_along_and_no_number_of_the_old_place(
    there: World, here: House, pg: Cluster, spans: dict[int, str]
) -> None:
    await fill(there, pg)
    assert await find_differences(there.house, there.workspace_id, there.after(days=4)) == {}
    before = read_all(pg, "spread", there.workspace_id)
    empty = {table for table, rows in before.items() if not rows}
    # What this world has nothing of is numbered by columns that are tried elsewhere.
    assert empty <= {
        "alert_choice", "alert_default", "alert_habit", "auto_answer", "availability", "case_remark", "draw_notice", "earlier_run", "erasure", "former_member", "kept_link",
        "library_file", "listening", "promise_kept", "reading_check", "retention_choice", "read_mark", "rule_version", "team_turn", "workspace_hours", "outbox", "person_mark", "support_case",
        "case_message", "reaction", "saved_reply_use", "scheduled_reply", "policy", "proposal",
    }  # fmt: skip
    done = await carrying.carry_in(here, io.BytesIO(await take_out(there)), there.after(days=4))
    assert done.mismatches == []
    # Every number that was taken for the name of something was one.
    assert done.lost == {}
    assert await spells.find_other_spells(here, done.workspace_id) == []
    after = read_all(pg, "another", done.workspace_id)
    with pg.admin("another") as conn:
        assert conn.execute("select needs_second, picture is not null from workspace").fetchall() == [(True, True)]
    assert {table: len(rows) for table, rows in after.items()} == {table: len(rows) for table, rows in before.items()}
    left: dict[str, str] = {}
    for table, rows in after.items():
        for row in rows:
            left |= find_numbers({k: v for k, v in row.items() if (table, k) not in core.UNTOUCHED}, spans, table)
    assert left == {}
    # The old place was full of them: the search finds what is there.
    found: dict[str, str] = {}
    for table, rows in before.items():
        for row in rows:
            found |= find_numbers(row, spans, table)
    assert {"trail.data.message", "rule.body.then[].tags[]", "kept_report.query", "conversation.linked[]"} <= set(found)
    assert {core.WORDS.get(path.split(".")[-1].strip("[]")) or kind for path, kind in found.items() if not path.endswith((".id", "workspace_id", "query", "query[]"))} <= set(spans.values())  # fmt: skip


async def test_reports_there_are_the_same(there: World, here: House, pg: Cluster) -> None:
    await fill(there, pg)
    done = await carrying.carry_in(here, io.BytesIO(await take_out(there)), there.after(days=4))
    scope = await find_scope(here, done.workspace_id, there.scopes["noor"])
    for ask in (Ask(period=Named.DAYS_7), Ask(period=Named.DAYS_28)):
        at = there.after(days=4)
        mine = await reports.get_report(there.house, there.scopes["noor"], ask, at)
        theirs = await reports.get_report(here, scope, ask, at)
        assert drop_numbers(mine) == drop_numbers(theirs)
        told = await reports.list_doings(there.house, there.scopes["noor"], ask, at)
        assert drop_numbers(told) == drop_numbers(await reports.list_doings(here, scope, ask, at))


def drop_numbers(value: Any) -> Any:
    """A report without the numbers of what it is about: names stay, and so does every figure."""
    if isinstance(value, dict):
        return {key: drop_numbers(one) for key, one in value.items() if key not in ("id", "key")}
    if isinstance(value, list | tuple):
        return [drop_numbers(one) for one in value]
    return value


async def find_scope(house: House, workspace_id: int, like: Scope) -> Scope:
    """Who has the same address in the new place."""
    async with house.db.transact(workspace_id) as tx:
        member = await people.get_member_for_sign_in(tx, "noor@brinewick.example")
        assert member is not None
        (row,) = [m for m in await people.list_members(tx) if m.id == member.id]
    role = read_role(row.role, row.role_name, row.permissions, limited=False)
    return replace(like, workspace_id=workspace_id, member_id=member.id, role=role)


async def test_nothing_that_lets_anybody_in_goes_along_and_nothing_goes_out(
    there: World, here: House, pg: Cluster
) -> None:
    id = await there.hear("Is it open?")
    await answers.reply(
        there.house, there.scopes["mara"], id, public=True, text="Yes!", seen_seq=(await there.row(id))["seq"], settle=True, now=there.now
    )  # fmt: skip
    whole = await take_out(there)
    with zipfile.ZipFile(io.BytesIO(whole)) as file:
        text = "\n".join(file.read(name).decode() for name in file.namelist())
    with pg.admin("spread") as conn:
        hashes = [one for (one,) in conn.execute("select password_hash from member")]
    for secret in ("sealed:", there.get_token(), "tok_desk", *hashes):
        assert secret not in text
    done = await carrying.carry_in(here, io.BytesIO(whole), there.now)
    assert sorted(done.new_members) == sorted(
        f"{name}@brinewick.example" for name in ("ana", "ilse", "lise", "mara", "noor")
    )
    assert await carrying.list_owners(here, done.workspace_id) == ["noor@brinewick.example"]
    with pg.admin("another") as conn:
        rows = conn.execute(
            "select disconnected_at is not null, token ~ '^sealed:', hook_secret ~ '^sealed:' from account"
        ).fetchall()
        assert set(rows) == {(True, True, True)}
        assert conn.execute("select held_at is not null from workspace").fetchall() == [(True,)]
        assert conn.execute("select bool_or(has_password) from member").fetchall() == [(False,)]
    assert await delivery.deliver_due(here, done.workspace_id, there.after(minutes=5)) == 0
    assert await find_differences(here, done.workspace_id, there.after(minutes=6)) == {}
    with pg.admin("another") as conn:
        assert conn.execute("select count(*) from outbox where state = 'delivered'").fetchall() == [(0,)]


async def test_what_cannot_come_in_leaves_nothing(there: World, here: House, pg: Cluster) -> None:
    await there.hear("Is it open?")
    whole = await take_out(there)
    # Into the place it comes from, where all of it is.
    await there.house.db.open()
    for file, kind, match in (
        (b"", Invalid, "cannot be read"),
        (whole[: len(whole) // 2], Invalid, "cannot be read"),
        (bend(whole, "manifest.json", lambda m: {**m, "form": 2}), Impossible, "another version"),
        (bend(whole, "manifest.json", lambda m: {**m, "migrations": []}), Impossible, "another version"),
        (bend(whole, "rows/tag.jsonl", lambda _: {"id": 1, "nonsense": 2}), Invalid, "other columns"),
        (bend(whole, "rows/conversation.jsonl", lambda row: {**row, "move": 7, "id": "x"}), Invalid, "cannot be read"),
    ):
        with pytest.raises(kind, match=match):
            await carrying.carry_in(here, io.BytesIO(file), there.now)
    with pg.admin("another") as conn:
        assert conn.execute("select count(*) from workspace").fetchall() == [(0,)]
        assert conn.execute("select count(*) from member").fetchall() == [(0,)]
    await carrying.carry_in(here, io.BytesIO(whole), there.now)
    # Once more it is another workspace of the same organisation; of several organisations one is named.
    again = await carrying.carry_in(here, io.BytesIO(whole), there.now)
    assert again.new_members == []
    async with here.db.connect() as conn2:
        await people.add_organisation(conn2, "Another")
    with pytest.raises(Invalid, match="Say which"):
        await carrying.carry_in(here, io.BytesIO(whole), there.now)
    with pytest.raises(Impossible, match="another organisation"):
        await carrying.carry_in(here, io.BytesIO(whole), there.now, "Another")


def bend(whole: bytes, name: str, change: Any) -> bytes:
    """The file with the first row of one part changed."""
    made = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(whole)) as before, zipfile.ZipFile(made, "w") as after:
        for one in before.namelist():
            content = before.read(one)
            if one == name:
                first, _, rest = (content, b"", b"") if one == "manifest.json" else content.partition(b"\n")
                content = json.dumps(change(json.loads(first or b"{}"))).encode() + b"\n" + rest
            after.writestr(one, content)
    return made.getvalue()


async def test_every_table_goes_along_or_stays_for_a_reason_and_columns_are_named_alike(
    world: World, pg: Cluster
) -> None:
    async with world.house.db.connect() as conn:
        tables = {table.name for table in await store.list_tables(conn)}
    assert set(core.STAYS) <= tables
    with pg.admin(name_database(world)) as admin:
        rows = admin.execute(
            "select c.conrelid::regclass::text, a.attname, c.confrelid::regclass::text from pg_constraint c"
            " join pg_attribute a on a.attrelid = c.conrelid and a.attnum = any(c.conkey)"
            " where c.contype = 'f' and cardinality(c.conkey) = 1 and c.connamespace = 'public'::regnamespace"
        ).fetchall()
    named = {(str(t), str(column)): str(target) for t, column, target in rows if t in tables - set(core.STAYS)}
    assert {
        (place, target)
        for place, target in named.items()
        if target != "workspace" and core.WORDS.get(place[1]) != target
    } == set()


async def test_a_draw_can_be_checked_as_before(there: World, here: House, pg: Cluster) -> None:
    post, _ = await test_draws.contest(there)
    id = await test_draws.announce(there, post)
    await test_draws.draw(there, id)
    before = await draws.get_certificate(there.house, there.scopes["noor"], id)
    done = await carrying.carry_in(here, io.BytesIO(await take_out(there)), there.after(days=4))
    scope = await find_scope(here, done.workspace_id, there.scopes["noor"])
    with pg.admin("another") as conn:
        (new,) = conn.execute("select id from draw").fetchall()[0]
    assert await draws.get_certificate(here, scope, new) == before
