"""What is kept beside trails: right, nothing is found; whatever is falsified is found, and by its name."""

import json
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.answers import Extras
from sorta.core.facts import SettledAs
from sorta.core.ports import Moderation
from sorta.services import acts, answers, desk, moderation, sorting
from sorta.services.checking import GIVEN, find_differences, find_other_counts
from tests.services.test_on_its_way import go
from tests.world import World

pytestmark = pytest.mark.anyio

#: For each column that a trail gives, what to write there that is wrong.
FALSE = {
    "account_id": "(select max(id) from account where id <> c.account_id)",
    "person_id": "(select max(id) from person where id <> c.person_id)",
    "preview": "'something else'",
    "messages": "messages + 1",
    "last_at": "last_at + interval '1 second'",
    "last_inbound_at": "last_inbound_at - interval '1 second'",
    "last_inbound_seq": "last_inbound_seq + 1",
    "seq": "seq + 1",
    "sorted": "not sorted",
    "move": "case move when 'settled' then 'our_move' else 'settled' end",
    "priority": "priority - 1",
    "owner_id": "(select max(id) from member where id is distinct from c.owner_id)",
    "settled_as": "case when settled_as is null then 'junk' end",
    "parked_until": "now()",
    "awaiting_since": "coalesce(awaiting_since, now()) - interval '1 second'",
    "due": "coalesce(due, now()) + interval '1 second'",
    "unanswered": """unanswered || '[{"message": 1, "at": "2026-11-20T09:00:00+00:00"}]'""",
    "answering": """answering || '[{"message": 1, "covers": [], "settles": false}]'""",
    "team_id": "(select max(id) from team where id is distinct from c.team_id)",
    "tags": "tags || 99::bigint",
    "watchers": "watchers || 99::bigint",
    "sentiment": "coalesce(sentiment, 0) + 0.5",
    "reads_as": "reads_as || 'spam'::text",
    "language": "language || 'x'",
    "bare_mention": "not bare_mention",
    "has_attachment": "not has_attachment",
    "rating": "coalesce(rating, 0) + 1",
    "by_hand": "by_hand || 'x'::text",
    "proposal_waiting": "not proposal_waiting",
    "consent_rules": "consent_rules || 'x'::text",
    "case_until": "now()",
    "advice_waiting": "advice_waiting || 99::bigint",
    "settled_on": "99",
    "parked_on": "99",
    "answered_until": "now()",
    "thanked": "99",
    "linked": "linked || 99::bigint",
}
OF_MESSAGES = {
    "edited_at": ("now()", "messages edited"),
    "removed_at": ("now()", "messages removed"),
    "liked": ("not liked", "messages liked"),
    "hidden": ("not hidden", "messages hidden"),
    "reposted": ("not reposted", "messages reposted"),
    "inbound": ("not inbound", "messages of theirs"),
}


@pytest.fixture
async def lived(world: World) -> int:
    """A conversation in which much has happened, among others."""
    mara = world.scopes["mara"]
    await world.hear("Somebody else's", handle="jonas")
    await sorting.add_team(world.house, world.workspace_id, "Animals", [mara.member_id])
    first = await world.say("Is the seal called Bosse?")
    await world.take(first)
    found = await world.find(first["object"]["id"])
    id = found.conversation_id
    await acts.tag(world.house, mara, id, name="seals", on=True, now=world.now)
    await acts.watch(world.house, mara, id, on=True, now=world.now)
    await acts.assign(world.house, mara, id, owner_id=mara.member_id, note=None, now=world.now)
    await moderation.moderate(world.house, mara, found.id, what=Moderation.LIKE, now=world.now)
    sheet = await desk.get_sheet(world.house, mara, id, world.now)
    seq = sheet["conversation"]["seq"]
    await answers.reply(world.house, mara, id, public=True, text="She is.", seen_seq=seq, settle=True, now=world.now, extras=Extras())  # fmt: skip
    await go(world, minutes=1)
    more = await world.say("And the other?", kind="reply", parent=first["object"]["id"], at=world.after(minutes=5))
    await world.take(more, now=world.after(minutes=5))
    await acts.correct(world.house, mara, id, message_id=(await world.find(more["object"]["id"])).id, field="language", value="nl", now=world.after(minutes=6))  # fmt: skip
    other = await world.hear("Thanks!", handle="tove", at=world.after(minutes=6))
    await acts.settle(world.house, mara, other, how=SettledAs.NO_REPLY_NEEDED, now=world.after(minutes=7))
    return id


async def look(world: World) -> dict[int, list[str]]:
    return await find_differences(world.house, world.workspace_id, world.after(minutes=10))


async def test_nothing_is_found_where_nothing_is_wrong(world: World, lived: int) -> None:
    assert await look(world) == {}
    assert await find_other_counts(world.house, world.workspace_id) == []
    assert await find_differences(world.house, world.workspace_id, world.after(minutes=10) + timedelta(days=3)) == {}


async def test_every_column_that_is_falsified_is_found(world: World, lived: int) -> None:
    for column, wrong in FALSE.items():
        async with world.house.db.transact(world.workspace_id) as tx:
            kept = await (await tx.execute(f"select {column} from conversation where id = %s", [lived])).fetchone()  # type: ignore[call-overload]
            await tx.execute(f"update conversation c set {column} = {wrong} where id = %s", [lived])  # type: ignore[call-overload]
        found = await look(world)
        assert set(found) == {lived}, column
        assert column in found[lived], found
        async with world.house.db.transact(world.workspace_id) as tx:
            value: Any = kept[0] if kept else None
            cast = "::jsonb" if column in ("unanswered", "answering") else ""
            given = json.dumps(value) if cast else value
            await tx.execute(f"update conversation set {column} = %s{cast} where id = %s", [given, lived])  # type: ignore[call-overload]
    assert await look(world) == {}


async def test_every_column_is_given_falsified_or_computed(world: World) -> None:
    assert await world.columns("conversation") == GIVEN | FALSE.keys()


@pytest.mark.parametrize("column", OF_MESSAGES)
async def test_what_is_falsified_of_messages_is_found(world: World, lived: int, column: str) -> None:
    wrong, says = OF_MESSAGES[column]
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute(f"update message set {column} = {wrong} where conversation_id = %s and inbound", [lived])  # type: ignore[call-overload]
    found = await look(world)
    assert set(found) == {lived}
    assert says in found[lived]


async def test_what_is_falsified_of_spells_filing_and_counts_is_found(world: World, lived: int) -> None:
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update spell set clock_s = clock_s + 1 where conversation_id = %s and seq = 1", [lived])
    assert await look(world) == {lived: ["spells"]}
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update spell set clock_s = clock_s - 1 where conversation_id = %s and seq = 1", [lived])
        await tx.execute("update filing set its_rank = its_rank + 1 where conversation_id = %s and under = 'watch'", [lived])  # fmt: skip
        await tx.execute("delete from filing where conversation_id = %s and under = 'tag'", [lived])
    assert await look(world) == {lived: ["filing"]}
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("insert into tally (workspace_id, move, dimension, value, n) values (%s, 'parked', 'all', '', 3)", [world.workspace_id])  # fmt: skip
    assert await find_other_counts(world.house, world.workspace_id) == ["parked, all : 3 kept, 0 there"]
