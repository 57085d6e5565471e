"""Everything about a person: handed out whole, and erased so that no table and no file holds a word of them, while figures stay.

The word that must be nowhere afterwards is looked for in every row of every table, by whoever may read all."""

import json
import re
from dataclasses import replace
from typing import Any

import pytest

from dev.cluster import Cluster
from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.people import make_pattern
from sorta.core.ports import EditSeen
from sorta.services import (
    accounts,
    acts,
    advice,
    answers,
    approvals,
    delivery,
    erasing,
    ingest,
    intake,
    policies,
    profiles,
    scheduling,
    spells,
    streams,
    waits,
)
from sorta.services.checking import find_differences
from sorta.store import erasing as store
from tests.services.test_acts import reply
from tests.services.test_advice import PostBox, ask
from tests.services.test_attachments import attach, list_files
from tests.services.test_cases import hand_over, pass_on, tell
from tests.services.test_people import person_of
from tests.world import SECRET, World, name_database

pytestmark = pytest.mark.anyio
WORD = "quokkavane"
#: Tables that point at a person or at what was said to them, and hold no word of them.
WORDLESS = {
    "auto_answer": "numbers and an instant",
    "case_message": "numbers and an instant",
    "draw_notice": "numbers and an instant; of a draw, whose published list stays",
    "filing": "numbers, for lists",
    "presence": "numbers; gone within a minute",
    "read_mark": "numbers",
    "reading_check": "what it read as; no words",
    "saved_reply_use": "numbers and an instant",
    "spell": "figures",
    "erasure": "that it was done",
}


def find_word(pg: Cluster, world: World, word: str = WORD) -> dict[str, int]:
    """The tables in which a word stands, with the number of rows."""
    found = {}
    with pg.admin(name_database(world)) as conn:
        tables = conn.execute("select tablename from pg_tables where schemaname = 'public'").fetchall()
        for (table,) in tables:
            rows = conn.execute(f"select count(*) from {table} t where t::text ilike %s", [f"%{word}%"]).fetchone()
            assert rows is not None
            if rows[0]:
                found[str(table)] = int(str(rows[0]))
    return found


async def say(world: World, text: str, **more: Any) -> int:
    return await world.hear(text, handle=WORD, **more)


async def plant(world: World, pg: Cluster) -> tuple[int, list[int]]:
    """Somebody whose word stands wherever it can; their record and their conversations."""
    house, mara, at = world.house, world.scopes["mara"], world.after
    world.house = house = replace(house, post=PostBox(), mail_secret=SECRET)
    await advice.set_domains(house, world.scopes["noor"], ["clinic.example"])
    public = await say(world, f"I am {WORD}, my number is QV-20311, {WORD}@mail.example")
    person = await person_of(world, public)
    private = await say(world, f"{WORD} again, {WORD}@two.example", network="hushline", kind="private")
    await profiles.join(house, mara, person, await person_of(world, private), world.now)
    # Answered, changed outside, noted, with a file, a link and a question outside.
    await acts.add_note(house, mara, public, text=f"{WORD} called", now=world.now)
    await reply(world, public, f"Dear {WORD}, see https://brinewick.example/{WORD}")
    message = await world.find((await last(world, public, inbound=True))["external_id"])
    edit = EditSeen(
        external_id=(await last(world, public, inbound=True))["external_id"], body=f"{WORD}!", at=at(minutes=2)
    )
    await ingest.take_in(house, world.accounts["commonfold"], [edit], at(minutes=2))
    files = await attach(world, private, f"{WORD}.png")
    await answers.reply(
        house, mara, private, public=False, text=f"Here, {WORD}", seen_seq=(await world.row(private))["seq"], settle=False,
        now=world.now, extras=answers.Extras(attachments=(files,)),
    )  # fmt: skip
    await ask(world, public, question=f"What of {WORD}?")
    await advice.send_due(house, world.workspace_id, at(seconds=11))
    await delivery.deliver_due(house, world.workspace_id, at(minutes=5))
    with pg.admin(name_database(world)) as conn:
        conn.execute(
            "insert into advice_answer (workspace_id, advice_id, message_id, sender, sender_name, subject, own, quoted, at)"
            " select workspace_id, id, '<1>', 'vet@clinic.example', 'Vet', %(w)s, %(w)s, %(w)s, now() from advice",
            {"w": f"on {WORD}"},
        )
    row = await list_asked(world, public)
    await advice.stop_waiting(house, mara, row["id"], at(minutes=6))
    # Handed over, and the desk has spoken.
    await hand_over(world, public, note=f"{WORD} is angry", minutes=6)
    await pass_on(world, minutes=10)
    await tell(world, (await world.cases())[0]["id"], state="waiting", remark=f"{WORD} was called")
    # Proposed, sent back; scheduled, cancelled.
    await say(world, f"and {WORD} once more", network="hushline", kind="private", at=at(hours=3))
    ana, noor = world.scopes["ana"], world.scopes["noor"]
    await policies.add_policy(house, noor, PolicyBody(name="All", when=PolicyWhen(roles=("trainee",)), members=(mara.member_id,), count=1), on=True, now=at(hours=3)
    )  # fmt: skip
    seq = (await world.row(private))["seq"]
    proposal = await approvals.propose(
        house, ana, private, public=False, text=f"Hi {WORD}", seen_seq=seq, settle=False, now=at(hours=3)
    )
    await approvals.send_back(house, mara, proposal, reason=f"{WORD} deserves better", now=at(hours=3))
    later = await scheduling.schedule(
        house, mara, private, public=False, text=f"Later, {WORD}", seen_seq=(await world.row(private))["seq"], settle=False,
        send_at=at(hours=30), now=at(hours=3),
    )  # fmt: skip
    await undo_schedule(world, private, later)
    # What the team knows, and what lies about elsewhere.
    await profiles.add_fact(house, mara, person, name="Pet", value=f"{WORD} junior, QV-99001", now=world.now)
    await profiles.add_follow_up(
        house, mara, person, words=f"Ring {WORD}", due_at=at(days=2), member_id=None, now=world.now
    )
    await erasing.get_everything(house, mara, person, world.now)
    values = {
        "now": world.now,
        "p": person,
        "ws": world.workspace_id,
        "w": f"x {WORD}",
        "m": mara.member_id,
        "c": public,
        "msg": message.id,
        "a": world.accounts["commonfold"].id,
    }
    identity = "(select external_id from identity where handle = '" + WORD + "' limit 1)"
    with pg.admin(name_database(world)) as conn:
        for statement in (
            "insert into translation (workspace_id, message_id, language, body, what, rough, engine, member_id, at)"
            " values (%(ws)s, %(msg)s, 'de', %(w)s, 'translated', false, 'x', %(m)s, now())",
            "insert into draft (member_id, conversation_id, workspace_id, mode, body, updated_at) values (%(m)s, %(c)s, %(ws)s, 'note', %(w)s, now())",
            "insert into alert (workspace_id, member_id, occasion, words, conversation_id, key, at)"
            " values (%(ws)s, %(m)s, 'due_soon', %(w)s, %(c)s, 'k', now())",
            "insert into web_hook (workspace_id, name, url, secret, kinds, events, made_by, made_at)"
            " values (%(ws)s, 'h', 'http://x.test', 's', '{}', '{}', %(m)s, now())",
            "insert into hook_event (workspace_id, hook_id, conversation_id, event, data)"
            " select %(ws)s, id, %(c)s, 'noted', jsonb_build_object('text', %(w)s::text) from web_hook",
            "insert into rule (workspace_id, position, switched_on, version, body, owner_id, changed_by, changed_at)"
            " values (%(ws)s, 1, true, 1, '{}', %(m)s, %(m)s, now())",
            "insert into rule_hit (workspace_id, rule_id, version, conversation_id, message_id, at, evidence, effects, lost)"
            " select %(ws)s, id, 1, %(c)s, %(msg)s, now(), jsonb_build_array(%(w)s::text), '{tag}', '[]' from rule",
            "insert into rule_trial (workspace_id, member_id, rules, rule_id, days, made_at, state, result)"
            " values (%(ws)s, %(m)s, '[]', 0, 7, %(now)s, 'done', jsonb_build_object('x', %(w)s::text))",
            "insert into correction (workspace_id, message_id, field, was, now, member_id, at)"
            " values (%(ws)s, %(msg)s, 'reads_as', '', %(w)s, %(m)s, now())",
            "insert into aside (workspace_id, account_id, received_at, source, reason, body)"
            " select %(ws)s, %(a)s, now(), 'webhook', 'unreadable', jsonb_build_object('actor', external_id, 'x', %(w)s::text)::text"
            f" from identity where external_id = {identity}",
            "insert into early_change (workspace_id, account_id, external_id, body, at)"
            " select %(ws)s, %(a)s, external_id, %(w)s, now() from message where id = %(msg)s",
            "insert into reaction (account_id, external_id, workspace_id, identity_id, object_id, at)"
            f" select %(a)s, 'like/' || %(w)s::text, %(ws)s, i.id, 'thing', now() from identity i where i.external_id = {identity}",
            # As the log named them once.
            "insert into security_event (workspace_id, member_id, kind, about)"
            " values (%(ws)s, %(m)s, 'exported', jsonb_build_object('what', %(w)s::text, 'person', %(p)s::bigint))",
            "update message set evidence = evidence || jsonb_build_object('words', jsonb_build_object('praise', jsonb_build_array(%(w)s::text)))"
            " where id = %(msg)s",
        ):
            conn.execute(statement, values)
        conn.commit()
    return person, [public, private]


async def list_asked(world: World, id: int) -> dict[str, Any]:
    async with world.house.db.transact(world.workspace_id) as tx:
        return (await advice.list_of(tx, id))[0]


async def undo_schedule(world: World, id: int, seq: int) -> None:
    await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(hours=3))


async def last(world: World, id: int, *, inbound: bool) -> dict[str, Any]:
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await (
            await tx.execute(
                "select id, external_id, body from message where conversation_id = %s and inbound = %s order by id desc limit 1",
                [id, inbound],
            )
        ).fetchall()
    return {"id": rows[0][0], "external_id": rows[0][1], "body": rows[0][2]}


async def erase(world: World, person: int, name: str = WORD.capitalize(), who: str = "noor") -> dict[str, int]:
    return await erasing.erase(world.house, world.scopes[who], person, name=name, now=world.after(hours=4))


async def test_no_table_and_no_file_holds_a_word_of_them_afterwards(world: World, pg: Cluster) -> None:
    person, ids = await plant(world, pg)
    other = await world.hear(f"Has @{WORD} been here? I am Wim", handle="wim")
    await acts.add_note(world.house, world.scopes["mara"], other, text=f"Friend of @{WORD}.", now=world.now)
    before = find_word(pg, world)
    touched = set(re.findall(r"(?:update|delete from) (\w+)", "\n".join(store.SQL.statements.values())))
    assert touched - {"account", "post", "erasure"} - set(before) <= {"person_tag", "click", "link"}, (
        "each place is tried here"
    )
    assert len(list_files(world)) == 1
    told = await erasing.preview(world.house, world.scopes["noor"], person)
    assert told["unfinished"] == []
    assert await erase(world, person) == told["counts"]
    assert {k: told["counts"][k] for k in ("conversations", "mentions", "files")} == {
        "conversations": 2,
        "mentions": 1,
        "files": 1,
    }
    assert find_word(pg, world) == {}
    assert find_word(pg, world, "QV-20311") == find_word(pg, world, "QV-99001") == {}
    assert list_files(world) == []
    # What others said stays but for the name.
    assert (await last(world, other, inbound=True))["body"] == "Has erased been here? I am Wim"
    assert {(await world.row(id))["person_name"] for id in ids} == {"Erased person"}


async def test_every_table_that_points_at_them_is_erased_or_has_no_words(world: World, pg: Cluster) -> None:
    with pg.admin(name_database(world)) as conn:
        tables = conn.execute(
            "select distinct c.table_name from information_schema.columns c join pg_tables t on t.tablename = c.table_name"
            " where t.schemaname = 'public' and c.column_name in"
            " ('person_id', 'kept_id', 'conversation_id', 'message_id', 'identity_id', 'case_id', 'advice_id')"
        ).fetchall()
    said = " ".join(store.SQL.statements[step] for step in (*store.STEPS, "take_files"))
    reached = set(re.findall(r"(?:update|delete from) (\w+)", said)) | {"trail"}
    assert {str(t) for (t,) in tables} - reached == set(WORDLESS)


async def test_figures_and_trails_stay(world: World, pg: Cluster) -> None:
    """What reports count is the same before and after, trails still lead to what stands, and no spell is another."""
    person, ids = await plant(world, pg)
    for id in ids:
        if (await world.row(id))["settled_as"] is None:
            await acts.settle(
                world.house, world.scopes["mara"], id, how=SettledAs.NO_REPLY_NEEDED, now=world.after(hours=3)
            )
    kept = "seq, kind, since, ended_at, ended_by, member_id, clock_s, work_s, review_s, advice_s, case_s, due, tags, language, sentiment"
    with pg.admin(name_database(world)) as conn:
        before = conn.execute(f"select conversation_id, {kept} from spell order by 1, 2").fetchall()
        seqs = conn.execute("select conversation_id, seq, kind, at, member_id from trail order by 1, 2").fetchall()
        await erase(world, person)
        assert conn.execute(f"select conversation_id, {kept} from spell order by 1, 2").fetchall() == before != []
        assert (
            conn.execute("select conversation_id, seq, kind, at, member_id from trail order by 1, 2").fetchall() == seqs
        )
    assert await find_differences(world.house, world.workspace_id, world.after(hours=5)) == {}
    assert await spells.find_other_spells(world.house, world.workspace_id) == []


async def test_what_was_erased_does_not_come_back_and_they_can(world: World, pg: Cluster) -> None:
    """Delivered again, by whatever way, it stays away; what they write next is somebody new's."""
    activity = await world.say(f"I am {WORD}", handle=WORD)
    await world.take(activity)
    found = await world.find(activity["object"]["id"])
    person = await person_of(world, found.conversation_id)
    await erase(world, person)
    account = await accounts.get_account(world.house, world.workspace_id, world.accounts["commonfold"].id)
    seen = intake.read_activity(world.house, account, activity)
    assert await ingest.take_in(world.house, account, [seen], world.now) == 0
    edit = EditSeen(external_id=seen.external_id, body=f"{WORD}, changed", at=world.after(hours=5))
    await ingest.take_in(world.house, account, [edit], world.after(hours=5))
    assert find_word(pg, world) == {}
    new = await world.say(f"{WORD} is back", handle=WORD)
    await ingest.take_in(world.house, account, [intake.read_activity(world.house, account, new)], world.now)
    back = await world.find(new["object"]["id"])
    assert back.conversation_id != found.conversation_id
    assert await person_of(world, back.conversation_id) != person
    # And may be erased again.
    assert (await erase(world, await person_of(world, back.conversation_id)))["messages"] == 1
    assert find_word(pg, world) == {}


async def test_it_waits_for_what_is_still_to_go_out(world: World) -> None:
    id = await say(world, "Hello")
    person = await person_of(world, id)
    await reply(world, id, "Hi")
    told = await erasing.preview(world.house, world.scopes["noor"], person)
    assert told["unfinished"] == [{"conversation_id": id, "why": erasing.UNFINISHED["answer"]}]
    with pytest.raises(Impossible, match="still to go out"):
        await erase(world, person)
    assert (await last(world, id, inbound=True))["body"] == "Hello"
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=5))
    await erase(world, person)
    # Open work of theirs is settled, and nothing is done with it any more.
    assert (await world.row(id))["settled_as"] == "removed"
    for refused in (
        reply(world, id, "Are you there?"),
        acts.add_note(world.house, world.scopes["mara"], id, text="it was them", now=world.now),
        acts.reopen(world.house, world.scopes["mara"], id, now=world.now),
    ):
        with pytest.raises(Impossible, match="erased"):
            await refused
    with pytest.raises(NotFound):
        await profiles.get_profile(world.house, world.scopes["mara"], person, world.now)
    with pytest.raises(Impossible, match="already"):
        await erase(world, person)
    assert person not in [p["id"] for p in (await profiles.list_persons(world.house, world.scopes["mara"], filters={}, order="name", cursor=None, limit=50))["persons"]]  # fmt: skip


async def test_who_may_and_only_by_the_name(world: World) -> None:
    id = await say(world, "Hello")
    person = await person_of(world, id)
    for who in ("mara", "ilse", "ana", "lise"):
        with pytest.raises(NotAllowed):
            await erase(world, person, who=who)
        with pytest.raises(NotAllowed):
            await erasing.preview(world.house, world.scopes[who], person)
    with pytest.raises(Invalid) as wrong:
        await erase(world, person, name="Petra")
    assert wrong.value.field == "name"
    with pytest.raises(NotFound):
        await erasing.preview(world.house, world.scopes["otto"], person)
    assert (await last(world, id, inbound=True))["body"] == "Hello"


async def test_all_there_is_of_them_is_handed_out(world: World, pg: Cluster) -> None:
    """Whatever place it stands in: what erasing finds, they can be given."""
    person, _ = await plant(world, pg)
    told = json.loads(
        json.dumps(await erasing.get_everything(world.house, world.scopes["mara"], person, world.now), default=str)
    )
    for part in (
        "messages",
        "trail",
        "proposals",
        "scheduled",
        "cases",
        "questions",
        "facts",
        "follow_ups",
        "identities",
    ):
        assert WORD in json.dumps(told[part]), part
    assert {m["value"] for m in told["marks"]} == {
        f"{WORD}@mail.example",
        f"{WORD}@two.example",
        "QV-20311",
        "QV-99001",
    }
    assert len(told["reactions"]) == 1
    assert next(m["files"] for m in told["messages"] if m["files"])[0]["name"] == f"{WORD}.png"


@pytest.mark.parametrize(
    ("handle", "text", "becomes"),
    [
        ("ada", "@ada and @adam, @ada.lund, ada", "erased and @adam, @ada.lund, ada"),
        ("@ada.lund", "ask @Ada.Lund. Or @ada", "ask erased. Or @ada"),
        ("ada@lund.example", "mail ada@lund.example, not xada@lund.example or ada@lund.example.com", "mail erased, not xada@lund.example or ada@lund.example.com"),
        ("a.*", "@a.* is @abc", "erased is @abc"),
        ("łódź_fan", "hej @łódź_fan!", "hej erased!"),
    ],
)  # fmt: skip
def test_a_name_is_found_where_it_addresses_and_nowhere_else(pg: Cluster, handle: str, text: str, becomes: str) -> None:
    with pg.admin() as conn:
        made = conn.execute("select regexp_replace(%s, %s, 'erased', 'gi')", [text, make_pattern([handle])]).fetchone()
    assert made == (becomes,)


def test_nobody_is_found_by_nothing() -> None:
    assert make_pattern(["", "@", "x"]) is None


async def test_it_is_left_out_of_what_is_handed_on(world: World, pg: Cluster) -> None:
    id = await say(world, "Hello")
    await erase(world, await person_of(world, id))
    async with world.house.db.transact(world.workspace_id) as tx:
        assert await streams.store.list_conversations(tx, [id]) == []
    assert (await waits.find_other_days(world.house, world.workspace_id)) == []
