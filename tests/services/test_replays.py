"""What if, over the real store: asked, played in the background, stopped, taken up again; who may, and what is refused."""

from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Any

import pytest

from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.replay import AskedReplay, CannotReplay, Found, compare
from sorta.core.rules import Anything, Conditions, RuleBody, SettleIt
from sorta.core.targets import Audience
from sorta.services import acts, answers, replays, rules
from sorta.services.replaying import make_replayer
from sorta.services.replays import NewPeople, WhatIf
from tests.world import World

pytestmark = pytest.mark.anyio
DAY = WhatIf(days=1)


@dataclass
class Here:
    """Plays at once, few times; keeps what it was asked."""

    asked: list[AskedReplay] = field(default_factory=list)
    meanwhile: Callable[[], Awaitable[None]] | None = None
    fails: bool = False

    async def compare(self, asked: AskedReplay, tell: Callable[[int, int], Awaitable[bool]]) -> Found | None:
        self.asked.append(asked)
        if self.fails:
            raise CannotReplay("The dice are gone.")
        if self.meanwhile is not None:
            await self.meanwhile()
        if not await tell(3, 10):
            return None
        return compare(replace(asked, runs=12))


@pytest.fixture
async def here(world: World) -> Here:
    """A day over which five were answered after an hour, one settled, one is open."""
    made = Here()
    world.house = replace(world.house, replayer=made)
    ids = [await world.hear("Are you open?", handle=f"h{n}") for n in range(7)]
    for id in ids[:5]:
        await answers.reply(
            world.house,
            world.scopes["mara"],
            id,
            text="Yes.",
            public=True,
            seen_seq=(await world.row(id))["seq"],
            settle=False,
            now=world.after(hours=1),
        )
    await acts.settle(world.house, world.scopes["ilse"], ids[5], how=SettledAs.JUNK, now=world.after(minutes=5))
    return made


def tomorrow(world: World) -> datetime:
    return world.after(days=1)


async def ask(world: World, asked: WhatIf = DAY, who: str = "mara") -> int:
    return await replays.start(world.house, world.scopes[who], asked, tomorrow(world))


async def get(world: World, id: int, who: str = "mara") -> dict[str, Any]:
    return await replays.get_replay(world.house, world.scopes[who], id)


async def play(world: World, asked: WhatIf = DAY) -> dict[str, Any]:
    id = await ask(world, asked)
    await replays.run(world.house, world.workspace_id, id, tomorrow(world))
    return await get(world, id)


async def test_a_day_is_played_as_it_was_and_with_what_is_changed(world: World, here: Here) -> None:
    mara = world.scopes["mara"].member_id
    asked = WhatIf(days=1, more=(NewPeople(count=2),), without=(mara,), handling=6)
    found = await play(world, asked)
    assert (found["state"], found["done"], found["total"], found["mine"]) == ("done", 10, 10, True)
    told = found["result"]
    assert told["really"] == {"first_half": 3600.0, "first_nine": 3600.0, "kept": 1.0, "answers": 5.0, "open": 1.0}
    assert (told["waits"], told["source"], told["handling"]) == (7, "given", 360.0)
    before, after = here.asked[0].before, here.asked[0].after
    assert [p.id for p in before.people] != [p.id for p in after.people]
    assert mara not in {p.id for p in after.people}
    assert [p.id for p in after.people if not p.id] == [0, 0]
    assert before.since == after.since
    # Half of the first answers went out after an hour: the days as they were are played so that they do again.
    assert told["figures"]["first_half"]["before"]["middle"] == pytest.approx(3600, rel=0.35)
    people = {row["id"]: row for row in told["people"]}
    assert people[mara]["after"] is None
    assert told["names"][str(mara)] == "Mara Person"


async def test_other_hours_and_targets_are_counted_by(world: World, here: Here) -> None:
    minutes = {"urgent": 1, "high": 2, "normal": 3, "low": 4}
    await play(world, WhatIf(days=1, hours=("0-24",) * 6 + ("closed",), targets=dict.fromkeys(Audience, minutes)))
    before, after = here.asked[0].before, here.asked[0].after
    assert set(after.promised) == {180.0}
    assert set(before.promised) != {180.0}


async def test_a_rule_switched_on_takes_work_from_people(world: World, here: Here) -> None:
    body = RuleBody(name="Settle", when=Conditions(parts=(Anything(),)), then=(SettleIt(how="no_reply_needed"),))
    rule = await rules.add_rule(world.house, world.scopes["mara"], body, on=False, now=tomorrow(world))
    told = (await play(world, WhatIf(days=1, rules={rule: True})))["result"]
    assert told["changed_waits"] == 7
    assert told["figures"]["answers"]["after"]["middle"] == 0
    assert told["figures"]["open"]["after"]["high"] == 0
    assert all(row["after"] == 0 for row in told["people"])


async def test_in_a_process_of_its_own_the_same_comes_out(world: World, here: Here) -> None:
    await play(world)
    asked = replace(here.asked[0], runs=20)
    steps: list[tuple[int, int]] = []

    async def tell(done: int, total: int) -> bool:
        steps.append((done, total))
        return True

    async def stop(done: int, total: int) -> bool:
        return False

    assert await make_replayer().compare(asked, tell) == compare(asked)
    assert len(steps) > 3
    assert await make_replayer().compare(asked, stop) is None
    with pytest.raises(CannotReplay, match=r"ended|failed"):
        await make_replayer().compare(replace(asked, timed=(), mean=-1.0, before=replace(asked.before, task=[])), tell)


async def test_who_forgets_it_stops_it_and_others_cannot(world: World, here: Here) -> None:
    id = await ask(world)
    with pytest.raises(Invalid, match="One of yours is being played"):
        await ask(world)
    with pytest.raises(NotFound):
        await replays.forget(world.house, world.scopes["noor"], id)
    here.meanwhile = lambda: replays.forget(world.house, world.scopes["mara"], id)
    await replays.run(world.house, world.workspace_id, id, tomorrow(world))
    with pytest.raises(NotFound):
        await get(world, id)
    here.meanwhile = None
    assert (await play(world))["state"] == "done"


async def test_twice_is_once_and_what_fails_says_why(world: World, here: Here) -> None:
    id = (await play(world))["id"]
    await replays.run(world.house, world.workspace_id, id, tomorrow(world))
    assert len(here.asked) == 1
    here.fails = True
    failed = await play(world)
    assert (failed["state"], failed["problem"], failed["result"]) == ("failed", "The dice are gone.", None)
    assert [row["state"] for row in await replays.list_replays(world.house, world.scopes["noor"])] == ["failed", "done"]


async def test_what_another_version_played_is_not_shown_and_breaks_nothing(world: World, here: Here) -> None:
    id = (await play(world))["id"]
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("""update what_if set result = '{"version": 0, "other": "things"}'""")
    shown = await get(world, id)
    assert (shown["state"], shown["result"]) == ("failed", None)
    assert "Ask again" in shown["problem"]
    assert [row["state"] for row in await replays.list_replays(world.house, world.scopes["mara"])] == ["failed"]


async def test_what_fell_silent_is_taken_up_again(world: World, here: Here) -> None:
    id = await ask(world)
    assert await replays.take_up_silent(world.house, world.workspace_id, tomorrow(world)) == 0
    async with world.house.db.transact(world.workspace_id) as tx:
        await tx.execute("update what_if set state = 'running', heard_at = now() - interval '2 minutes'")
        await tx.execute("delete from procrastinate_jobs where task_name = 'play_what_if'")
    assert await replays.take_up_silent(world.house, world.workspace_id, tomorrow(world)) == 1
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await tx.execute("select args from procrastinate_jobs where task_name = 'play_what_if'")
        assert [r[0]["replay_id"] for r in await rows.fetchall()] == [id]


@pytest.mark.parametrize(
    ("asked", "says"),
    [
        (WhatIf(days=29), "1 to 28 days"),
        (WhatIf(days=1, hours=("9-17",) * 6), "seven days"),
        (WhatIf(days=1, hours=("closed",) * 7), "never open"),
        (WhatIf(days=1, hours=("9-25",) * 7), "no clock shows"),
        (WhatIf(days=1, more=(NewPeople(count=1, shift=("9-12, 11-13",) * 7),)), "overlap"),
        (WhatIf(days=1, more=(NewPeople(count=1, team=99_999),)), "no team 99999"),
        (WhatIf(days=1, more=(NewPeople(count=15),) * 2), "At most 20"),
        (WhatIf(days=1, without=(99_999,)), "number 99999"),
        (WhatIf(days=1, rules={99_999: True}), "no rule 99999"),
        (WhatIf(days=1, targets={Audience.PUBLIC: {"urgent": 1}}), "target has"),
        (WhatIf(days=1, targets={Audience.PUBLIC: {"vast": 1}}), "no priority"),
    ],
)
async def test_what_cannot_be_is_said_before_anything_is_played(
    world: World, here: Here, asked: WhatIf, says: str
) -> None:
    with pytest.raises(Invalid, match=says):
        await ask(world, asked)
    assert await replays.list_replays(world.house, world.scopes["mara"]) == []


async def test_without_anybody_or_anything_there_is_nothing_to_play(world: World, here: Here) -> None:
    everybody = tuple(p.id for p in await _people(world, here))
    with pytest.raises(Invalid, match="Somebody has to be there"):
        await ask(world, WhatIf(days=1, without=everybody))
    with pytest.raises(Invalid, match="Nothing came in"):
        await replays.start(world.house, world.scopes["mara"], DAY, world.after(days=20))


async def _people(world: World, here: Here) -> list[Any]:
    await play(world)
    return list(here.asked[-1].before.people)


async def test_whoever_may_not_see_reports_sees_nothing_of_it(world: World, here: Here) -> None:
    id = await ask(world)
    for work in (
        ask(world, who="ilse"),
        get(world, id, who="ilse"),
        replays.list_replays(world.house, world.scopes["ilse"]),
        replays.forget(world.house, world.scopes["ilse"], id),
    ):
        with pytest.raises(NotAllowed):
            await work


async def test_so_many_are_kept(world: World, here: Here, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(replays, "MOST_KEPT", 2)
    ids = [(await play(world))["id"] for _ in range(4)]
    kept = [row["id"] for row in await replays.list_replays(world.house, world.scopes["mara"])]
    assert kept == [ids[3], ids[2]]
