"""Rules at work on real messages: every action, routing, the limits of automatic answers under attack, trials, the review."""

import asyncio
from collections import Counter
from dataclasses import replace
from datetime import timedelta
from typing import Any

import pytest

from sorta.core.alerting import Wants
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.routing import Way
from sorta.core.rules import (
    AddTags,
    AnswerWith,
    Anything,
    Condition,
    Conditions,
    FirstContact,
    GiveTo,
    HasWords,
    HideIt,
    LetWatch,
    LikeIt,
    OnAd,
    ParkIt,
    PersonHasTag,
    RuleBody,
    SetPriority,
    SettleIt,
    TellMembers,
)  # fmt: skip
from sorta.core.targets import Priority
from sorta.services import (
    acts,
    alerts,
    delivery,
    desk,
    ingest,
    intake,
    outgoing,
    review,
    rules,
    sorting,
    tags,
    team,
    trials,
)
from sorta.services.checking import find_differences
from sorta.store import rules as store
from sorta.store import trail
from tests.world import World

pytestmark = pytest.mark.anyio


async def add(world: World, *then: Any, when: tuple[Condition, ...] = (), name: str = "A rule", on: bool = True) -> int:
    body = RuleBody(name=name, when=Conditions(parts=when or (Anything(),)), then=then)
    return await rules.add_rule(world.house, world.scopes["mara"], body, on=on, now=world.now)


async def events(world: World, id: int) -> list[trail.TrailRow]:
    async with world.house.db.transact(world.workspace_id) as tx:
        return await trail.list_trail(tx, id)


async def hits(world: World, id: int) -> list[dict[str, Any]]:
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await tx.execute("select effects, lost, evidence from rule_hit where rule_id = %s order by id", [id])
        return [{"effects": e, "lost": lo, "evidence": ev} for e, lo, ev in await rows.fetchall()]


async def answers_outside(world: World, network: str = "commonfold") -> list[str]:
    return [t["content"] for t in await world.things(network) if "clientKey" in t]


async def test_every_effect_is_in_the_trail_with_the_rule_and_the_words(world: World) -> None:
    mara, ilse = world.scopes["mara"].member_id, world.scopes["ilse"].member_id
    tag = await tags.get_tag(world.house, world.scopes["mara"], "animal care", make=True)
    rule = await add(
        world,
        SetPriority(priority=Priority.URGENT),
        AddTags(tags=(tag,)),
        AddTags(tags=(tag,), person=True),
        GiveTo(member=ilse),
        HideIt(),
        LetWatch(members=(mara,)),
        TellMembers(members=(mara, ilse)),
        when=(HasWords(words=("cut on",)),),
        name="Animal distress",
    )
    id = await world.hear("The ray has a CUT ON its wing")
    row = await world.row(id)
    assert (row["move"], row["priority"], row["owner_id"], row["tags"], row["watchers"]) == (
        "our_move",
        3,
        ilse,
        [tag],
        [mara],
    )
    # Also the lists that filters make know what it arrived with.
    for filters in ({"tag": [tag]}, {"person_tag": [tag]}, {"watched": True}):
        wanted = {"move": "our_move", **filters}
        page = await desk.list_rows(world.house, world.scopes["mara"], filters=wanted, order="due", cursor=None, limit=9, now=world.now)  # fmt: skip
        assert [r["id"] for r in desk.read_rows(page)] == [id], filters
    found = (await events(world, id))[1:]
    assert [e.kind for e in found] == [
        "prioritised", "tagged", "person_tagged", "assigned", "moderated", "watched", "alerted",
    ]  # fmt: skip
    for event in found:
        assert event.member_id is None
        assert event.data["rule"]["name"] == "Animal distress"
        assert event.data["rule"]["version"] == 1
        assert event.data["rule"]["evidence"] == [{"type": "words", "words": ["CUT ON"]}]
    (hit,) = await hits(world, rule)
    assert set(hit["effects"]) == {"priority", "tag", "assign", "hide", "watch", "alert"}
    for _ in range(2):
        await delivery.deliver_due(world.house, world.workspace_id, world.now)
    (thing,) = [t for t in await world.things() if "CUT ON" in t["content"]]
    assert thing["hidden"]
    told = await alerts.list_alerts(world.house, world.scopes["ilse"], 10)
    assert told["unread"] == 1
    assert "Animal distress" in told["alerts"][0]["words"]
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_what_a_member_set_is_left_alone_by_the_next_message(world: World) -> None:
    ilse, mara = world.scopes["ilse"], world.scopes["mara"]
    tag = await tags.get_tag(world.house, mara, "noise", make=True)
    await add(world, SetPriority(priority=Priority.LOW), GiveTo(member=mara.member_id), AddTags(tags=(tag,)))
    post = (await world.publish())["object"]["id"]
    id = await world.hear("One", parent=post)
    await acts.prioritise(world.house, ilse, id, priority=Priority.HIGH, now=world.now)
    await acts.assign(world.house, ilse, id, owner_id=ilse.member_id, note=None, now=world.now)
    await acts.tag(world.house, ilse, id, name="noise", on=False, now=world.now)
    assert await world.hear("Two", parent=post) == id
    row = await world.row(id)
    assert (row["priority"], row["owner_id"], row["tags"]) == (2, ilse.member_id, [])
    assert sorted(row["by_hand"]) == ["assign", "priority", f"tag:{tag}"]
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_settling_parking_and_persons_tags(world: World) -> None:
    tag = await tags.get_tag(world.house, world.scopes["mara"], "school", make=True)
    await add(world, AddTags(tags=(tag,), person=True), when=(HasWords(words=("class",)),))
    await add(world, ParkIt(choice=ParkFor.TOMORROW), when=(PersonHasTag(tags=(tag,)),))
    await add(world, SettleIt(how="no_reply_needed"), when=(HasWords(words=("lol",)), FirstContact()))
    assert (await world.row(await world.hear("A class of 28", handle="teacher")))["move"] == "our_move"
    assert (await world.row(await world.hear("And lunch?", handle="teacher")))["move"] == "parked"
    settled = await world.hear("lol", handle="joker")
    assert (await world.row(settled))["settled_as"] == "no_reply_needed"
    assert (await world.row(await world.hear("lol again", handle="joker")))["move"] == "unsorted"


async def test_an_ad_is_known_by_its_post(world: World) -> None:
    rule = await add(world, LikeIt(), when=(OnAd(),))
    body = {"network": "commonfold", "handle": "brinewick", "name": "Brinewick Aquarium", "page": "brinewick"}
    ad = await world.control("say", **body, kind="post", title="Ad", text="Come!", tell=False, sponsored=True)
    await world.hear("Under an ad", parent=ad["object"]["id"])
    await world.hear("Under a post")
    assert len(await hits(world, rule)) == 1


async def test_what_a_network_cannot_do_is_kept_with_the_reason(world: World) -> None:
    rule = await add(world, HideIt(), SetPriority(priority=Priority.HIGH))
    await world.hear("Hello", network="quillet", kind="mention")
    (hit,) = await hits(world, rule)
    assert hit["effects"] == ["priority"]
    assert hit["lost"] == [{"effect": "hide", "why": "Quillet has no hiding of what others wrote."}]


async def test_a_changed_rule_counts_from_the_next_message_on(world: World) -> None:
    mara = world.scopes["mara"]
    rule = await add(world, SetPriority(priority=Priority.HIGH))
    assert (await world.row(await world.hear("One", handle="a")))["priority"] == 2
    body = RuleBody(name="A rule", when=Conditions(parts=(Anything(),)), then=(SetPriority(priority=Priority.LOW),))
    await rules.set_rule(world.house, mara, rule, body=body, on=None, version=1, now=world.now)
    assert (await world.row(await world.hear("Two", handle="b")))["priority"] == 0
    with pytest.raises(Invalid, match="meanwhile"):
        await rules.set_rule(world.house, mara, rule, body=body, on=None, version=1, now=world.now)
    await rules.set_rule(world.house, mara, rule, body=None, on=False, version=2, now=world.now)
    assert (await world.row(await world.hear("Three", handle="c")))["move"] == "unsorted"
    assert [v["version"] for v in await rules.list_versions(world.house, mara, rule)] == [3, 2, 1]
    with pytest.raises(NotAllowed):
        await rules.remove_rule(world.house, world.scopes["ilse"], rule, world.now)


# -- routing ---------------------------------------------------------------------------------------------------


async def test_a_team_gives_in_turn_and_passes_over_who_is_away(world: World) -> None:
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    id = await sorting.add_team(world.house, world.workspace_id, "Care", [mara.member_id, ilse.member_id])
    await add(world, GiveTo(team=id))
    owners = [
        (await world.row(await world.hear("x", handle=h, at=world.after(minutes=n))))["owner_id"]
        for n, h in enumerate("abcd")
    ]
    assert owners in ([mara.member_id, ilse.member_id] * 2, [ilse.member_id, mara.member_id] * 2)
    away = {
        "capacity": 40,
        "languages": [],
        "away_from": world.now,
        "away_until": None,
        "away_reason": "",
        "shift": None,
    }
    await team.set_availability(world.house, ilse, ilse.member_id, **away, now=world.now)
    got = await world.hear("y", handle="e", at=world.after(minutes=9))
    row = await world.row(got)
    assert row["owner_id"] == mara.member_id
    choice = (await events(world, got))[-1].data["choice"]
    assert choice == {"reason": "in turn", "passed": [[ilse.member_id, "away"]]}
    await team.set_availability(
        world.house, mara, mara.member_id, **{**away, "capacity": 0, "away_from": None}, now=world.now
    )
    row = await world.row(await world.hear("z", handle="f", at=world.after(minutes=10)))
    assert (row["owner_id"], row["team_id"], row["move"]) == (None, id, "our_move")


@pytest.mark.parametrize("way", [Way.IN_TURN, Way.LIGHTEST])
async def test_what_comes_in_at_once_is_shared_out_as_if_it_came_one_by_one(world: World, way: Way) -> None:
    """And what comes after goes on from there, in every team."""
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    teams = [
        await sorting.add_team(world.house, world.workspace_id, name, [mara.member_id, ilse.member_id])
        for name in ("Care", "Press")
    ]
    for id in teams:
        await team.set_way(world.house, mara, id, way)
    await add(world, GiveTo(team=teams[0]), when=(HasWords(words=("zeppel",)),))
    await add(world, GiveTo(team=teams[1]), when=(HasWords(words=("quarn",)),))
    texts = ["zeppel", "zeppel", "quarn", "zeppel", "quarn", "zeppel"]
    said = [await world.say(text, handle=f"p{n}", at=world.after(minutes=n)) for n, text in enumerate(texts)]
    await world.take(*said, now=world.after(minutes=9))
    rows = [await world.row((await world.find(one["object"]["id"])).conversation_id) for one in said]
    owners = [[row["owner_id"] for row in rows if row["team_id"] == id] for id in teams]
    assert [len(set(owners[0])), len(set(owners[1]))] == [2, 2]
    assert Counter(owners[0] + owners[1]) == {mara.member_id: 3, ilse.member_id: 3}
    if way is Way.IN_TURN:
        assert owners[0][:2] == owners[0][2:]
        last = await world.row(await world.hear("zeppel", handle="q", at=world.after(minutes=20)))
        assert last["owner_id"] == owners[0][0]


async def test_what_comes_in_at_once_weighs_as_it_was_judged(world: World) -> None:
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    id = await sorting.add_team(world.house, world.workspace_id, "Care", [mara.member_id, ilse.member_id])
    await team.set_way(world.house, mara, id, Way.LIGHTEST)
    await add(world, SetPriority(priority=Priority.URGENT), when=(HasWords(words=("quarn",)),))
    await add(world, GiveTo(team=id))
    said = [await world.say(text, handle=text) for text in ("quarn", "zeppel", "vorm", "plem")]
    await world.take(*said)
    first, *others = [
        (await world.row((await world.find(one["object"]["id"])).conversation_id))["owner_id"] for one in said
    ]
    assert {first, *others} == {mara.member_id, ilse.member_id}
    assert first not in others


async def test_who_knew_the_person_gets_them_again_and_keeps_what_they_have(world: World) -> None:
    mara, ilse = world.scopes["mara"], world.scopes["ilse"]
    id = await sorting.add_team(world.house, world.workspace_id, "Care", [mara.member_id, ilse.member_id])
    await team.set_way(world.house, mara, id, Way.KNOWN)
    await add(world, GiveTo(team=id))
    from sorta.services import answers

    post = (await world.publish())["object"]["id"]
    first = await world.hear("Hi", parent=post)
    row = await world.row(first)
    await answers.reply(
        world.house, ilse, first, public=True, text="Hello", seen_seq=row["seq"], settle=True, now=world.now
    )
    other = await world.hear("Me again", at=world.after(minutes=5))
    assert (await world.row(other))["owner_id"] == ilse.member_id
    before = len(await events(world, first))
    await world.hear("And this", parent=post, at=world.after(minutes=6))
    assert [e.kind for e in (await events(world, first))[before:]] == ["arrived"]


async def test_evening_out_proposes_and_does_nothing(world: World) -> None:
    mara, ilse, ana = world.scopes["mara"], world.scopes["ilse"], world.scopes["ana"]
    for n in range(6):
        id = await world.hear("x", handle=f"p{n}")
        await acts.assign(world.house, mara, id, owner_id=ilse.member_id, note=None, now=world.now)
    passes = await team.propose_evening(world.house, mara, world.now)
    assert {p["giver"] for p in passes} == {ilse.member_id}
    assert {p["taker"] for p in passes} <= {mara.member_id, ana.member_id, world.scopes["noor"].member_id}
    assert len(passes) == 4
    state = await team.get_team(world.house, mara, world.now)
    assert next(m for m in state["members"] if m["member_id"] == ilse.member_id)["in_hand"] == 6


async def test_what_somebody_is_in_the_middle_of_stays_and_a_teams_matter_stays_in_the_team(world: World) -> None:
    mara, ilse, ana, noor = (world.scopes[n] for n in ("mara", "ilse", "ana", "noor"))
    care = await sorting.add_team(world.house, world.workspace_id, "Animal care", [ilse.member_id, ana.member_id])
    ids = [await world.hear("x", handle=f"p{n}") for n in range(8)]
    for id in ids:
        await acts.assign(world.house, mara, id, owner_id=None, team_id=care, note=None, now=world.now)
        await acts.assign(world.house, mara, id, owner_id=ilse.member_id, note=None, now=world.now)
    assert {(await world.row(id))["team_id"] for id in ids} == {care}, "given within the team it stays the team's"
    await desk.set_presence(world.house, ilse, ids[0], "reading", world.now)
    await desk.set_draft(world.house, noor, ids[1], mode="public", body="Hm", shared=False, now=world.now)
    passes = await team.propose_evening(world.house, mara, world.now)
    assert {p["taker"] for p in passes} == {ana.member_id}
    assert not {p["id"] for p in passes} & set(ids[:2])
    await acts.assign(world.house, mara, ids[2], owner_id=noor.member_id, note=None, now=world.now)
    assert (await world.row(ids[2]))["team_id"] is None, "given outside the team it is the team's no more"


# -- automatic answers under attack ----------------------------------------------------------------------------


async def test_an_acknowledgement_goes_out_once_and_leaves_the_move_with_us(world: World) -> None:
    await add(world, AnswerWith(language="any", text="Thank you {first name}, we are looking into it."))
    post = (await world.publish())["object"]["id"]
    id = await world.hear("It is broken", parent=post)
    await world.hear("Really", parent=post, at=world.after(minutes=1))
    assert (await world.row(id))["move"] == "our_move"
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=2))
    assert await answers_outside(world) == ["Thank you Petra, we are looking into it."]
    await world.hear("Elsewhere, same day", at=world.after(hours=2))
    await world.hear("Elsewhere, next day", at=world.after(hours=25))
    await delivery.deliver_due(world.house, world.workspace_id, world.after(hours=26))
    await delivery.deliver_due(world.house, world.workspace_id, world.after(hours=26))
    assert len(await answers_outside(world)) == 2
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_two_automatic_repliers_do_not_talk_to_each_other(world: World) -> None:
    """One says it is a program and is never answered; one does not, and the limits end it after one answer."""
    await add(world, AnswerWith(language="any", text="We are closed", answers=True))
    for n in range(5):
        await world.hear(f"I am away {n}", kind="private", handle="robot", program=True, at=world.after(minutes=n))
    for n in range(5):
        await world.hear(f"Out of office {n}", kind="private", handle="petra", at=world.after(minutes=n))
        await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=n))
    assert await answers_outside(world) == ["We are closed"]


async def test_a_storm_stops_the_answers_and_nothing_else_and_alerts_the_leads(world: World) -> None:
    rule = await add(world, AnswerWith(language="any", text="Hello"), SetPriority(priority=Priority.HIGH))
    post = (await world.publish())["object"]["id"]
    said = [await world.say("storm", handle=f"s{n}", parent=post) for n in range(15)]
    await world.take(*said)
    more = [await world.say("storm", handle=f"t{n}", parent=post) for n in range(15)]
    seens = [intake.read_activity(world.house, world.accounts["commonfold"], a) for a in more]
    account = world.accounts["commonfold"]
    await asyncio.gather(*(ingest.take_in(world.house, account, [s], world.now) for s in seens))
    for _ in range(30):
        if not await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11)):
            break
    assert len(await answers_outside(world)) == 20
    (row,) = (await rules.list_rules(world.house, world.scopes["mara"], world.now))["rules"]
    assert row["switched_on"] is True
    assert row["answers_off_at"] is not None
    assert "More than 20" in row["off_reason"]
    for name, count in (("mara", 1), ("noor", 1), ("ilse", 0)):
        assert (await alerts.list_alerts(world.house, world.scopes[name], 5))["unread"] == count
    found = await hits(world, rule)
    assert len([h for h in found if "reply" in h["effects"]]) == 20
    assert len([h for h in found if "priority" in h["effects"]]) == 30, "it goes on sorting"
    # A member lets it answer again: it counts from then.
    mara = world.scopes["mara"]
    await rules.set_rule(
        world.house, mara, rule, body=None, on=None, answers=True, version=1, now=world.after(minutes=1)
    )
    for n in range(20):
        await world.hear("storm", handle=f"u{n}", parent=post, at=world.after(minutes=2))
    assert len([h for h in await hits(world, rule) if "reply" in h["effects"]]) == 40
    await world.hear("storm", handle="one more", parent=post, at=world.after(minutes=2))
    assert (await hits(world, rule))[-1]["lost"] == [{"effect": "reply", "why": "storm"}]
    await world.hear("storm", handle="and one", parent=post, at=world.after(minutes=2))
    assert (await hits(world, rule))[-1]["lost"] == [{"effect": "reply", "why": "answers_off"}]


async def test_nothing_is_answered_while_outgoing_is_held_and_all_of_it_goes_when_released(world: World) -> None:
    mara = world.scopes["mara"]
    rule = await add(world, AnswerWith(language="any", text="Hello"), LikeIt())
    await outgoing.hold(world.house, mara, "Something serious happened", world.now)
    await world.hear("Hi")
    assert (await hits(world, rule))[0]["lost"] == [{"effect": "reply", "why": "held"}]
    await delivery.deliver_due(world.house, world.workspace_id, world.now)
    assert not any(t.get("likedByPage") for t in await world.things())
    assert [w["why"] for w in (await outgoing.get_outgoing(world.house, mara, world.now))["waiting"]] == ["held"]
    with pytest.raises(NotAllowed):
        await outgoing.release(world.house, world.scopes["ilse"], world.now)
    await outgoing.release(world.house, mara, world.now)
    await delivery.deliver_due(world.house, world.workspace_id, world.now)
    assert any(t.get("likedByPage") for t in await world.things())


async def test_a_rule_edited_while_it_runs_never_answers_twice(world: World) -> None:
    mara = world.scopes["mara"]
    rule = await add(world, AnswerWith(language="any", text="Hello"))
    account = world.accounts["commonfold"]
    post = (await world.publish())["object"]["id"]
    said = [await world.say(f"n{n}", parent=post, handle=f"p{n % 4}") for n in range(12)]
    seens = [intake.read_activity(world.house, account, a) for a in said]

    async def edit() -> None:
        for version in range(1, 6):
            body = RuleBody(
                name=f"Edited {version}",
                when=Conditions(parts=(Anything(),)),
                then=(AnswerWith(language="any", text="Hello"),),
            )
            await rules.set_rule(world.house, mara, rule, body=body, on=None, version=version, now=world.now)

    await asyncio.gather(edit(), *(ingest.take_in(world.house, account, [s], world.now) for s in seens))
    for _ in range(20):
        if not await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=11)):
            break
    assert len(await answers_outside(world)) == 4


# -- trial, review, file ---------------------------------------------------------------------------------------


async def test_a_rule_is_tried_on_the_past_without_doing_anything(world: World) -> None:
    mara = world.scopes["mara"]
    for n in range(7):
        await world.hear("It is broken" if n % 2 else "Lovely", handle=f"p{n}", at=world.now - timedelta(days=n))
    body = RuleBody(
        name="Broken",
        when=Conditions(parts=(HasWords(words=("broken",)),)),
        then=(SetPriority(priority=Priority.URGENT),),
    )
    id = await trials.start_trial(world.house, mara, body=body, rule_id=0, days=5, now=world.now)
    assert (await trials.get_trial(world.house, mara, id))["state"] == "waiting"
    await trials.run_trial(world.house, world.workspace_id, id)
    done = await trials.get_trial(world.house, mara, id)
    assert done["state"] == "done"
    result = done["result"]
    assert (result["messages"], result["matched"]) == (5, 3)
    assert result["outcomes"] == [{"name": "priority:3", "before": 0, "after": 3}]
    assert result["examples"][0]["evidence"][0]["words"] == ["broken"]
    assert sum(d["messages"] for d in result["days"]) == 5
    assert (await rules.list_rules(world.house, mara, world.now))["rules"] == []
    again = await trials.start_trial(world.house, mara, body=body, rule_id=0, days=5, now=world.now)
    await trials.cancel_trial(world.house, mara, again)
    await trials.run_trial(world.house, world.workspace_id, again)
    assert (await trials.get_trial(world.house, mara, again))["state"] == "cancelled"


async def test_what_was_hidden_or_settled_is_looked_at_in_the_morning(world: World) -> None:
    mara = world.scopes["mara"]
    await add(world, HideIt(), when=(HasWords(words=("rude",)),), name="Rude")
    await add(world, SettleIt(), when=(HasWords(words=("lol",)),), name="Laughter")
    ids = [await world.hear(text, handle=h) for text, h in (("rude one", "a"), ("rude two", "b"), ("lol", "c"))]
    await delivery.deliver_due(world.house, world.workspace_id, world.now)
    found = await review.list_review(world.house, mara)
    assert found["total"] == 3
    by_body = {i["body"]: i["id"] for i in found["items"]}
    report = await review.review(world.house, mara, [by_body["rude one"], by_body["lol"]], "shown", world.now)
    assert report["failed"] == []
    await delivery.deliver_due(world.house, world.workspace_id, world.after(seconds=20))
    hidden = {t["content"]: t.get("hidden") for t in await world.things()}
    assert (hidden["rude one"], hidden["rude two"]) == (False, True)
    assert (await world.row(ids[2]))["move"] == "our_move"
    # What somebody has looked at keeps what was said of it.
    kept = await review.review(world.house, mara, [*by_body.values(), by_body["lol"]], "kept", world.now)
    assert kept == {"done": [{"id": id, "seq": 0} for id in by_body.values()], "failed": []}
    assert (await review.list_review(world.house, mara))["total"] == 0
    # One's own word that it stays is taken back; a colleague's is not, and what was brought back is no such word.
    ids, again = [by_body["rude two"], by_body["rude one"]], {"verdict": "again", "now": world.now}
    refused = await review.review(world.house, world.scopes["ilse"], ids, **again)
    assert [f["id"] for f in refused["failed"]] == ids
    report = await review.review(world.house, mara, ids, **again)
    assert [f["id"] for f in report["failed"]] == [by_body["rude one"]]
    assert [i["id"] for i in (await review.list_review(world.house, mara))["items"]] == [by_body["rude two"]]
    await review.review(world.house, mara, [by_body["rude two"]], "kept", world.now)


async def test_a_settled_conversation_is_reopened_by_hand_and_that_is_undone(world: World) -> None:
    mara = world.scopes["mara"]
    id = await world.hear("Hello")
    await acts.settle(world.house, mara, id, how=SettledAs.ANSWERED, now=world.now)
    seq = await acts.reopen(world.house, mara, id, now=world.now)
    row = await world.row(id)
    assert (row["move"], row["awaiting_since"]) == ("our_move", world.now)
    await acts.undo(world.house, mara, id, seq=seq, now=world.now)
    assert (await world.row(id))["move"] == "settled"
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_rules_go_to_a_file_and_come_from_one(world: World) -> None:
    mara = world.scopes["mara"]
    tag = await tags.get_tag(world.house, mara, "school", make=True)
    when = (PersonHasTag(tags=(tag,)), Conditions(of="any", parts=(HasWords(words=("class",)),)))
    await add(world, AddTags(tags=(tag,)), GiveTo(member=mara.member_id), when=when, name="Schools")
    file = await rules.export_rules(world.house, mara, world.now)
    otto = world.scopes["otto"]
    with pytest.raises(Invalid, match="Rule 1 of the file, ‘Schools’: The rule names a member that is not here"):
        await rules.import_rules(world.house, otto, file, world.now)
    assert (await rules.list_rules(world.house, otto, world.now))["rules"] == []
    file["rules"][0]["then"] = file["rules"][0]["then"][:1]
    assert await rules.import_rules(world.house, otto, file, world.now) == {"count": 1, "known": 0}
    assert await rules.import_rules(world.house, otto, file, world.now) == {"count": 0, "known": 1}
    (row,) = (await rules.list_rules(world.house, otto, world.now))["rules"]
    other = row["body"]["then"][0]["tags"][0]
    assert other != tag
    assert row["body"]["when"]["parts"][0]["tags"] == [other]
    assert row["switched_on"] is False
    for change, words in (
        ({"wen": file["rules"][0]["when"]}, "‘when’ is missing|‘wen’ is nothing"),
        (
            {"when": {"type": "group", "of": "all", "part": []}},
            "‘part’ is nothing that stands in the rule. Is it spelt right",
        ),
        ({"when": {"type": "group", "of": "all", "parts": []}}, "no condition"),
        (
            {"when": {"type": "group", "of": "all", "parts": [{"type": "ad"}, {"type": "moon"}]}},
            "no 'moon' in condition 2",
        ),
        ({"then": [{"type": "like"}, {"type": "dance"}]}, "no 'dance' in action 2"),
        ({"then": [{"type": "priority", "priority": 99}]}, "In action 1"),
    ):
        broken = {**file, "rules": [{**{k: v for k, v in file["rules"][0].items() if not ("wen" in change and k == "when")}, **change}]}  # fmt: skip
        with pytest.raises(Invalid, match=words):
            await rules.import_rules(world.house, otto, broken, world.now)
    assert len((await rules.list_rules(world.house, otto, world.now))["rules"]) == 1
    with pytest.raises(Invalid, match="no file of rules"):
        await rules.import_rules(world.house, otto, {"format": "x", "names": {}, "rules": []}, world.now)


async def test_rules_are_ordered_copied_removed_and_what_they_did_stays_explained(world: World) -> None:
    mara = world.scopes["mara"]
    one = await add(world, LikeIt(), name="One")
    two = await add(world, SetPriority(priority=Priority.LOW), name="Two")
    await world.hear("x")
    await rules.set_order(world.house, mara, [two, one], world.now)
    with pytest.raises(Invalid, match="changed meanwhile"):
        await rules.set_order(world.house, mara, [two], world.now)
    copy = await rules.copy_rule(world.house, mara, one, world.now)
    found = (await rules.list_rules(world.house, mara, world.now))["rules"]
    assert [(r["id"], r["switched_on"]) for r in found] == [(two, True), (one, True), (copy, False)]
    assert found[1]["hits"] == 1
    await rules.remove_rule(world.house, mara, one, world.now)
    assert len(await hits(world, one)) == 1
    async with world.house.db.transact(world.workspace_id) as tx:
        assert [r["id"] for r in await store.list_active(tx)] == [two]
    body = replace(RuleBody(name="Bad", when=Conditions(parts=(Anything(),)), then=(GiveTo(team=999),)))
    with pytest.raises(Invalid, match="a team that is not here"):
        await rules.add_rule(world.house, mara, body, on=True, now=world.now)


# -- alerts ----------------------------------------------------------------------------------------------------


async def test_lateness_is_told_once_and_never_to_the_away_by_mail(world: World) -> None:
    ilse, mara = world.scopes["ilse"], world.scopes["mara"]
    id = await world.hear("Hello")
    await acts.assign(world.house, mara, id, owner_id=ilse.member_id, note=None, now=world.now)
    due = (await world.row(id))["due"]
    assert await alerts.tell_late(world.house, world.workspace_id, due - timedelta(minutes=16)) == 0
    assert await alerts.tell_late(world.house, world.workspace_id, due - timedelta(minutes=14)) == 1
    assert await alerts.tell_late(world.house, world.workspace_id, due - timedelta(minutes=10)) == 0
    assert await alerts.tell_late(world.house, world.workspace_id, due + timedelta(minutes=1)) == 1
    assert await alerts.tell_late(world.house, world.workspace_id, due + timedelta(minutes=2)) == 0
    told = await alerts.list_alerts(world.house, ilse, 5)
    assert [a["occasion"] for a in told["alerts"]] == ["late", "due_soon", "given"]
    await alerts.set_read(world.house, ilse, None, due)
    assert (await alerts.list_alerts(world.house, ilse, 5))["unread"] == 0


async def test_mail_goes_out_once_and_waits_while_the_server_is_away(world: World) -> None:
    from sorta.core.ports import Letter, Unreachable

    sent: list[Letter] = []
    broken = True

    class Post:
        async def send(self, letter: Letter) -> None:
            if broken:
                raise Unreachable("no mail today")
            sent.append(letter)

    house = replace(world.house, post=Post(), address="http://desk.test")
    ilse = world.scopes["ilse"]
    await add(world, TellMembers(members=(ilse.member_id, world.scopes["noor"].member_id)), name="Tell them")
    away = {
        "capacity": 40,
        "languages": [],
        "away_from": world.now,
        "away_until": None,
        "away_reason": "",
        "shift": None,
    }
    await team.set_availability(
        world.house, world.scopes["noor"], world.scopes["noor"].member_id, **away, now=world.now
    )
    await world.hear("Hello\r\nBcc: everybody@evil.example")
    assert await alerts.mail_alerts(house, world.workspace_id, world.now) == 0
    broken = False
    assert await alerts.mail_alerts(house, world.workspace_id, world.after(seconds=1)) == 0, "too soon"
    assert await alerts.mail_alerts(house, world.workspace_id, world.after(seconds=3)) == 1
    assert await alerts.mail_alerts(house, world.workspace_id, world.after(seconds=90)) == 0
    assert sent[0].to == "ilse@brinewick.example"
    assert "http://desk.test/w/" in sent[0].text
    await alerts.set_choice(world.house, ilse, "rule", Wants(here=False))
    await world.hear("Again", handle="other")
    assert len((await alerts.list_alerts(world.house, ilse, 5))["alerts"]) == 1


async def test_a_rule_made_of_an_example_matches_the_next_of_its_kind_and_its_matches_are_a_list(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    example = await world.hear("The changing table in the cafeteria is broken", handle="a")
    await acts.tag(house, mara, example, name="Repairs", on=True, now=world.now)
    await acts.prioritise(house, mara, example, priority=Priority.HIGH, now=world.now)
    body = await rules.make_of(house, mara, example)
    assert body.when.parts[0].type == "kind"
    assert [action.type for action in body.then] == ["priority", "tag"]
    id = await rules.add_rule(house, mara, body, on=True, now=world.now)
    assert await rules.list_met(house, mara, id, world.now) == []
    again = await world.hear("The changing table in the cafeteria is broken", handle="b", at=world.after(minutes=1))
    other = await world.hear("Hello", handle="c", at=world.after(minutes=2))
    assert (await world.row(again))["priority"] == Priority.HIGH
    assert (await world.row(again))["tags"] == (await world.row(example))["tags"]
    assert (await world.row(other))["tags"] == []
    assert await rules.list_met(house, mara, id, world.after(minutes=3)) == [again]
    assert await rules.list_met(house, mara, id, world.after(days=30)) == []
    with pytest.raises(NotFound):
        await rules.make_of(house, mara, 999_999)
    with pytest.raises(NotAllowed):
        await rules.make_of(house, world.scopes["ilse"], example)
