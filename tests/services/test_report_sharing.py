"""A report out of the house: only what was chosen stands in it, and only while it may be there; mailed at its times, each once."""

import re
from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

import pytest

from sorta.core.errors import Busy, Impossible, Invalid, NotAllowed, NotFound
from sorta.core.periods import Named
from sorta.core.permissions import Role
from sorta.core.ports import Letter, LetterRefused, Unreachable
from sorta.core.sharing import PARTS, Mailing
from sorta.services import organisation, outgoing, report_page, report_sharing, sealing
from sorta.services.report_sharing import NewShare, dump_ask, read_ask
from sorta.services.reports import Ask
from tests.services.test_reports import furnish
from tests.world import World

pytestmark = pytest.mark.anyio
WEEKLY = Mailing(every="week", day=0, hour=8)


class Post:
    """Takes letters, or fails as it is told."""

    sender = "desk@brinewick.example"

    def __init__(self) -> None:
        self.letters: list[Letter] = []
        self.fails: Exception | None = None

    async def send(self, letter: Letter) -> None:
        if self.fails is not None:
            raise self.fails
        self.letters.append(letter)


def make(**given: Any) -> NewShare:
    return replace(NewShare(name="For the board", ask=Ask(period=Named.DAYS_7), parts=[], days=30), **given)


def set_post(world: World) -> Post:
    """From now on letters go to it."""
    post = Post()
    world.house = replace(world.house, post=post)
    return post


async def share(world: World, who: str = "mara", **given: Any) -> tuple[int, str]:
    """Its number, and what stands in its link."""
    id = await report_sharing.add_share(world.house, world.scopes[who], make(**given), world.now)
    (row,) = [r for r in await look(world) if r["id"] == id]
    return id, row["address"].rpartition("/r/")[2]


async def look(world: World, who: str = "mara", **after: float) -> list[dict[str, Any]]:
    return await report_sharing.list_shares(world.house, world.scopes[who], world.after(**after))


async def read(world: World, token: str, **after: float) -> str:
    return await report_sharing.open_share(world.house, token, world.after(**(after or {"hours": 5})))


async def test_a_link_shows_the_figures_and_nothing_that_was_not_chosen(world: World) -> None:
    await furnish(world)
    id, token = await share(world, ask=Ask(period=Named.DAYS_7, filters={"member": [world.scopes["mara"].member_id]}))
    page = await read(world, token)
    assert "For the board" in page
    assert "Within its target" in page
    for said in ("Mara", "Ilse", "Brinewick Aquarium", "Tickets", "Are you open?", "@brinewick"):
        assert said not in page, said
    assert "Only some, by member." in page
    _, told = await share(world, name="All of it", parts=list(PARTS))
    whole = await read(world, told)
    for said in ("Mara Person", "Brinewick Aquarium", "Tickets"):
        assert said in whole
    assert "Are you open?" not in whole
    assert [(r["id"], r["opened"]) for r in await look(world)][1] == (id, 1)


async def test_it_cannot_be_guessed_ends_and_is_taken_back(world: World) -> None:
    id, token = await share(world, days=3)
    assert len(token) >= 43
    await read(world, token)
    for wrong in ("", "x", token[:-1], token.upper(), "' or 1=1 --", "\x00", "é" * 43):
        with pytest.raises(NotFound, match="leads nowhere"):
            await read(world, wrong)
    with pytest.raises(NotFound, match="leads nowhere"):
        await read(world, token, days=3, seconds=1)
    await report_sharing.revoke_share(world.house, world.scopes["mara"], id, world.after(hours=6))
    with pytest.raises(NotFound, match="leads nowhere"):
        await read(world, token, hours=7)
    with pytest.raises(NotFound):
        await report_sharing.revoke_share(world.house, world.scopes["mara"], id, world.after(hours=8))
    assert [(r["is_over"], r["opened"]) for r in await look(world)] == [(True, 1)]


async def test_who_may_not_share_any_more_has_their_links_lead_nowhere(world: World) -> None:
    _, token = await share(world, "noor")
    await read(world, token)
    await organisation.set_role(world.house, world.workspace_id, world.scopes["noor"].member_id, Role.RESPONDER)
    with pytest.raises(NotFound, match="leads nowhere"):
        await read(world, token)
    assert [r["may_still"] for r in await look(world)] == [False]
    with pytest.raises(NotAllowed):
        await report_sharing.add_share(world.house, world.scopes["ilse"], make(), world.now)
    with pytest.raises(NotAllowed):
        await look(world, "ilse")
    assert await look(world, "otto") == []
    with pytest.raises(NotFound):
        await report_sharing.revoke_share(world.house, world.scopes["otto"], 1, world.now)


async def test_opened_very_often_it_asks_to_wait_and_is_there_again(world: World) -> None:
    _, token = await share(world)
    for _ in range(report_sharing.MOST_A_MINUTE):
        await read(world, token, hours=5)
    with pytest.raises(Busy):
        await read(world, token, hours=5, seconds=30)
    assert await read(world, token, hours=5, seconds=61)


async def test_its_link_outlives_a_new_key_and_is_sealed(world: World) -> None:
    _, token = await share(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        row = await (await tx.execute("select token, token_hash from shared_report")).fetchone()
    assert row is not None
    assert token not in row[0]
    assert token.encode() not in row[1]
    assert await sealing.seal_again(world.house, world.workspace_id) > 0
    assert (await look(world))[0]["address"].endswith(token)


def test_hostile_names_stay_words_and_the_style_is_the_one_the_policy_names() -> None:
    assert "'sha256-" in report_page.POLICY
    assert "unsafe" not in report_page.POLICY
    assert "default-src 'none'" in report_page.POLICY


async def test_a_hostile_name_stays_words(world: World) -> None:
    name = '"><script>alert(1)</script>{{ 7*7 }}'
    _, token = await share(world, name=name)
    page = await read(world, token)
    assert "<script" not in page
    assert "&lt;script&gt;alert(1)&lt;/script&gt;{{ 7*7 }}" in page
    style = re.search(r"<style>(.*?)</style>", page, re.DOTALL)
    assert style is not None
    assert style[1] == report_page.STYLE


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"name": "  "}, "1 to 60 characters"),
        ({"name": "n" * 61}, "1 to 60 characters"),
        ({"parts": ["texts"]}, "no part texts"),
        ({"days": 0}, "1 to 366 days"),
        ({"days": 367}, "1 to 366 days"),
        ({"mail_to": ["mara@brinewick.example"]}, "to whom it is mailed and when"),
        ({"mailing": WEEKLY}, "to whom it is mailed and when"),
        ({"mail_to": ["a@b.example, c@d.example"], "mailing": WEEKLY}, "not one mail address"),
        ({"mail_to": ["somebody@elsewhere.example"], "mailing": WEEKLY}, "Nobody at elsewhere.example"),
        ({"mail_to": [f"m{n}@brinewick.example" for n in range(11)], "mailing": WEEKLY}, "10 addresses"),
    ],
)
async def test_what_cannot_be_shared_is_refused(world: World, given: dict[str, Any], says: str) -> None:
    set_post(world)
    with pytest.raises(Invalid, match=says):
        await share(world, **given)
    assert await look(world) == []


async def test_without_a_mail_server_nothing_is_promised(world: World) -> None:
    with pytest.raises(Impossible):
        await share(world, mail_to=["mara@brinewick.example"], mailing=WEEKLY)


async def mail(world: World, at: datetime) -> int:
    return await report_sharing.mail_reports(world.house, world.workspace_id, at)


async def test_it_is_mailed_at_its_time_once_to_each_with_its_link(world: World) -> None:
    post = set_post(world)
    await furnish(world)
    _, token = await share(world, mail_to=["mara@brinewick.example", "ilse@brinewick.example"], mailing=WEEKLY)
    # Friday noon; the next Monday at eight in Copenhagen.
    due = datetime.fromisoformat("2026-11-23T07:00:00+00:00")
    assert (await look(world))[0]["mail_next_at"] == due
    assert await mail(world, due - timedelta(seconds=1)) == 0
    assert await mail(world, due) == 2
    assert await mail(world, due + timedelta(minutes=5)) == 0
    assert sorted(letter.to for letter in post.letters) == ["ilse@brinewick.example", "mara@brinewick.example"]
    assert len({letter.key for letter in post.letters}) == 2
    for letter in post.letters:
        assert token in letter.text
        assert letter.html is not None
        assert token in letter.html
        assert "Within its target" in letter.html
    assert await mail(world, due + timedelta(days=7)) == 2
    # Weeks in which nothing ran are not made up for one by one.
    assert await mail(world, due + timedelta(days=25)) == 2


async def test_what_is_not_taken_is_tried_again_and_what_never_will_be_is_said(world: World) -> None:
    post = set_post(world)
    id, _ = await share(world, mail_to=["mara@brinewick.example"], mailing=WEEKLY)
    due = (await look(world))[0]["mail_next_at"]
    post.fails = Unreachable("away")
    assert await mail(world, due) == 0
    assert "away" in (await look(world))[0]["mail_problem"]
    assert await mail(world, due + timedelta(seconds=1)) == 0
    post.fails = None
    assert await mail(world, due + timedelta(hours=3)) == 1
    row = (await look(world))[0]
    assert (row["mail_problem"], row["mailed_at"]) == (None, due)
    post.fails = LetterRefused("550 no such mailbox")
    again = due + timedelta(days=7)
    assert await mail(world, again) == 0
    assert "no such mailbox" in (await look(world))[0]["mail_problem"]
    post.fails = None
    assert await mail(world, again + timedelta(days=1)) == 0
    await report_sharing.revoke_share(world.house, world.scopes["mara"], id, again + timedelta(days=1))
    assert await mail(world, again + timedelta(days=7)) == 0


async def test_while_what_goes_out_is_held_and_after_its_maker_was_demoted_nothing_is_mailed(world: World) -> None:
    post = set_post(world)
    await share(world, "noor", mail_to=["mara@brinewick.example"], mailing=WEEKLY)
    due = (await look(world))[0]["mail_next_at"]
    await outgoing.hold(world.house, world.scopes["mara"], reason="a storm", now=world.now)
    assert await mail(world, due) == 0
    await outgoing.release(world.house, world.scopes["mara"], now=due)
    assert await mail(world, due + timedelta(hours=1)) == 1
    await organisation.set_role(world.house, world.workspace_id, world.scopes["noor"].member_id, Role.RESPONDER)
    assert await mail(world, due + timedelta(days=7)) == 0
    assert len(post.letters) == 1


def test_what_a_report_is_about_comes_back_as_it_was_kept() -> None:
    for ask in (
        Ask(),
        Ask(
            period=Named.EXACT,
            since=datetime(2026, 3, 1).date(),
            until=datetime(2026, 3, 9).date(),
            filters={"tag": [1], "public": False},
        ),
    ):
        assert read_ask(dump_ask(ask)) == ask
