"""Approval end to end on the real store and the Outside: what is not approved never goes out, what is goes out once."""

import asyncio
import random
from dataclasses import replace
from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Invalid, MovedOn, NeedsApproval, NotAllowed, SortaError, TooLate
from sorta.core.permissions import STARTING, Role
from sorta.core.rules import AskConsent, Conditions, HasWords, RuleBody
from sorta.services import acts, alerts, answers, approvals, delivery, desk, policies, policy_trials, rules
from sorta.services.checking import find_differences
from tests.world import World

pytestmark = pytest.mark.anyio


async def add_policy(world: World, *, count: int = 1, name: str = "Animal care", **when: Any) -> int:
    roles = (Role.OWNER, Role.LEAD) if count == 2 else (Role.OWNER,)
    body = PolicyBody(name=name, when=PolicyWhen(**when), roles=roles, count=count)
    return await policies.add_policy(world.house, world.scopes["mara"], body, on=True, now=world.now)


async def propose(world: World, id: int, *, who: str = "ilse", text: str = "We are on our way", **more: Any) -> int:
    row = await world.row(id)
    given = {"public": True, "text": text, "seen_seq": row["seq"], "settle": False, "now": world.now, **more}
    return await approvals.propose(world.house, world.scopes[who], id, **given)


async def approve(world: World, proposal: int, id: int, who: str = "noor", text: str | None = None) -> int | None:
    seen = (await world.row(id))["seq"]
    return await approvals.approve(world.house, world.scopes[who], proposal, seen_seq=seen, text=text, now=world.now)


async def list_outside(world: World) -> list[str]:
    for _ in range(30):
        if not await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=5)):
            break
    return [t["content"] for t in await world.things() if "clientKey" in t]


async def test_what_needs_approval_cannot_go_out_without_it_and_goes_out_once_with_it(world: World) -> None:
    await add_policy(world, public=True, words=("refund*",))
    id = await world.hear("My money")
    ilse = world.scopes["ilse"]
    seen = (await world.row(id))["seq"]
    given = {"public": True, "seen_seq": seen, "settle": True, "now": world.now}
    with pytest.raises(NeedsApproval, match="Animal care"):
        await answers.reply(world.house, ilse, id, text="A refund comes", **given)
    with pytest.raises(Invalid, match="nobody's approval"):
        await approvals.propose(world.house, ilse, id, text="Nothing special", **given)
    proposal = await propose(world, id, text="A refund comes", settle=True)
    assert (await world.row(id))["move"] == "in_review"
    assert await list_outside(world) == []
    for who in ("ilse", "ana", "mara"):
        with pytest.raises(NotAllowed):
            await approve(world, proposal, id, who)
    (waiting,) = await approvals.list_approvals(world.house, world.scopes["noor"])
    assert (waiting["mine"], waiting["overtaken"]) == (True, False)
    assert await approve(world, proposal, id)
    row = await world.row(id)
    assert (row["move"], row["settled_as"]) == ("settled", "answered")
    assert await list_outside(world) == ["A refund comes"]
    with pytest.raises(TooLate):
        await approve(world, proposal, id)
    assert (await alerts.list_alerts(world.house, world.scopes["noor"], 5))["unread"] == 1
    assert (await alerts.list_alerts(world.house, ilse, 5))["alerts"][0]["words"].endswith("was approved.")
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_two_different_people_where_two_are_asked(world: World) -> None:
    await add_policy(world, count=2)
    id = await world.hear("Hello")
    proposal = await propose(world, id)
    assert not await approve(world, proposal, id, "noor")
    with pytest.raises(NotAllowed):
        await approve(world, proposal, id, "noor")
    assert await list_outside(world) == []
    assert await approve(world, proposal, id, "mara")
    assert await list_outside(world) == ["We are on our way"]


async def test_an_edit_of_the_author_voids_consent_and_an_approvers_edit_is_kept_as_a_difference(world: World) -> None:
    await add_policy(world, count=2)
    id = await world.hear("Hello")
    proposal = await propose(world, id)
    await approve(world, proposal, id, "noor")
    ilse = world.scopes["ilse"]
    seen = (await world.row(id))["seq"]
    await approvals.change(world.house, ilse, proposal, text="We come at once", seen_seq=seen, now=world.now)
    sheet = await desk.get_sheet(world.house, ilse, id, world.now)
    assert (sheet["proposal"]["consents"], sheet["proposal"]["body"]) == ([], "We come at once")
    assert not await approve(world, proposal, id, "mara", "We come right now")
    sheet = await desk.get_sheet(world.house, ilse, id, world.now)
    assert (sheet["proposal"]["before_edit"], sheet["proposal"]["edited_by"]) == (
        "We come at once",
        world.scopes["mara"].member_id,
    )
    with pytest.raises(NotAllowed, match="Only its author"):
        await approvals.change(world.house, world.scopes["mara"], proposal, text="x", seen_seq=seen, now=world.now)
    assert await approve(world, proposal, id, "noor")
    assert await list_outside(world) == ["We come right now"]


async def test_they_write_again_while_it_is_in_review(world: World) -> None:
    await add_policy(world)
    post = (await world.publish())["object"]["id"]
    id = await world.hear("One", parent=post)
    proposal = await propose(world, id)
    seen = (await world.row(id))["seq"]
    await world.hear("Two", parent=post)
    assert (await world.row(id))["move"] == "in_review"
    (waiting,) = await approvals.list_approvals(world.house, world.scopes["noor"])
    assert waiting["overtaken"]
    with pytest.raises(MovedOn):
        await approvals.approve(world.house, world.scopes["noor"], proposal, seen_seq=seen, text=None, now=world.now)
    ilse = world.scopes["ilse"]
    now_seen = (await world.row(id))["seq"]
    await approvals.change(world.house, ilse, proposal, text="We are on our way", seen_seq=now_seen, now=world.now)
    assert not (await approvals.list_approvals(world.house, ilse))[0]["overtaken"]
    assert await approve(world, proposal, id)


async def test_sent_back_with_a_reason_and_withdrawn(world: World) -> None:
    await add_policy(world)
    id = await world.hear("Hello")
    proposal = await propose(world, id)
    noor, ilse = world.scopes["noor"], world.scopes["ilse"]
    with pytest.raises(Invalid, match="why"):
        await approvals.send_back(world.house, noor, proposal, reason=" ", now=world.now)
    await approvals.send_back(world.house, noor, proposal, reason="Name the keeper", now=world.now)
    assert (await world.row(id))["move"] == "our_move"
    sheet = await desk.get_sheet(world.house, ilse, id, world.now)
    assert (sheet["proposal"]["state"], sheet["proposal"]["reason"]) == ("sent_back", "Name the keeper")
    again = await propose(world, id)
    with pytest.raises(TooLate, match="waits for approval"):
        await propose(world, id, who="mara")
    with pytest.raises(NotAllowed):
        await approvals.withdraw(world.house, noor, again, world.now)
    assert (await approvals.withdraw(world.house, ilse, again, world.now)).text == "We are on our way"
    assert (await world.row(id))["move"] == "our_move"
    assert await list_outside(world) == []
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_trainee_a_rule_and_no_way_round(world: World) -> None:
    body = RuleBody(name="Press", when=Conditions(parts=(HasWords(words=("courier",)),)), then=(AskConsent(),))
    await rules.add_rule(world.house, world.scopes["mara"], body, on=True, now=world.now)
    plain = await world.hear("Hello", handle="plain")
    assert await propose(world, plain, who="ana")
    press = await world.hear("I write for the Courier", handle="press")
    sheet = await desk.get_sheet(world.house, world.scopes["ilse"], press, world.now)
    assert sheet["modes"][0]["needs"] == ["The rule “Press”"]
    with pytest.raises(NeedsApproval):
        await answers.reply(
            world.house,
            world.scopes["mara"],
            press,
            public=True,
            text="Hi",
            seen_seq=(await world.row(press))["seq"],
            settle=False,
            now=world.now,
        )
    with pytest.raises(TooLate, match="waits for approval"):
        await answers.reply(
            world.house,
            world.scopes["mara"],
            plain,
            public=True,
            text="Hi",
            seen_seq=(await world.row(plain))["seq"],
            settle=False,
            now=world.now,
        )
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


@pytest.mark.parametrize("text", [None, "Hello, in better words"])
async def test_an_approved_answer_can_be_called_back_in_its_grace(world: World, text: str | None) -> None:
    """It waits again, in its author's words, without the consent that was taken back; and it goes out once when approved."""
    await add_policy(world)
    id = await world.hear("Hello")
    proposal = await propose(world, id, text="Hello to you")
    noor = world.scopes["noor"]
    seq = await approve(world, proposal, id, text=text)
    assert seq is not None
    assert (await world.row(id))["move"] == "their_move"
    with pytest.raises(TooLate, match="sent or approved"):
        await acts.undo(world.house, world.scopes["mara"], id, seq=seq, now=world.after(seconds=3))
    await acts.undo(world.house, noor, id, seq=seq, now=world.after(seconds=3))
    assert await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=1)) == 0
    assert (await world.row(id))["move"] == "in_review"
    (waits,) = await approvals.list_approvals(world.house, noor)
    assert (waits["body"], waits["consents"], waits["mine"]) == ("Hello to you", [], True)
    await approve(world, proposal, id, text=text)
    await delivery.deliver_due(world.house, world.workspace_id, world.after(minutes=1))
    assert (await world.row(id))["move"] == "their_move"
    assert await list_outside(world) == [text or "Hello to you"]
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_whatever_order_people_act_in_every_approved_answer_is_outside_once_and_no_other_ever(
    world: World,
) -> None:
    """Seeded: several at once approve, change, send back and withdraw the same proposals."""
    await add_policy(world, count=2)
    dice = random.Random(5)
    ids = [await world.hear(f"Hello {n}", handle=f"p{n}") for n in range(8)]
    made = {id: await propose(world, id, text=f"Answer {id}") for id in ids}

    async def act(id: int, who: str, what: str) -> None:
        scope, proposal = world.scopes[who], made[id]
        seen = (await world.row(id))["seq"]
        try:
            if what == "approve":
                await approvals.approve(world.house, scope, proposal, seen_seq=seen, text=None, now=world.now)
            elif what == "back":
                await approvals.send_back(world.house, scope, proposal, reason="No", now=world.now)
            elif what == "withdraw":
                await approvals.withdraw(world.house, scope, proposal, world.now)
            else:
                await approvals.change(
                    world.house, scope, proposal, text=f"Answer {id}, again", seen_seq=seen, now=world.now
                )
        except SortaError:
            return

    work = [
        (id, who, what)
        for id in ids
        for who, what in (
            ("noor", "approve"), ("mara", "approve"), ("mara", "approve"), ("ilse", dice.choice(["change", "withdraw", "approve"])),
            ("noor", dice.choice(["back", "approve"])), ("ana", "approve"),
        )
    ]  # fmt: skip
    dice.shuffle(work)
    for at in range(0, len(work), 6):
        await asyncio.gather(*(act(*one) for one in work[at : at + 6]))
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await tx.execute("select state, body, consents from proposal")
        found = await rows.fetchall()
    approved = sorted(body for state, body, _ in found if state == "approved")
    assert sorted(await list_outside(world)) == approved
    assert all(len({c["member"] for c in consents}) == 2 for state, _, consents in found if state == "approved")
    assert approved
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def told(world: World) -> dict[str, int]:
    """How often each was told that an answer waits for them."""
    async with world.house.db.transact(world.workspace_id) as tx:
        rows = await tx.execute("select member_id from alert where occasion = 'approval'")
        names = {scope.member_id: name for name, scope in world.scopes.items()}
        counts: dict[str, int] = {}
        for (member,) in await rows.fetchall():
            counts[names[member]] = counts.get(names[member], 0) + 1
    return counts


async def test_one_is_asked_then_the_next_when_their_share_of_the_time_is_over(world: World) -> None:
    noor, mara = world.scopes["noor"], world.scopes["mara"]
    members = tuple(sorted((noor.member_id, mara.member_id)))
    first, second = ("mara", "noor") if members[0] == mara.member_id else ("noor", "mara")
    body = PolicyBody(name="All", when=PolicyWhen(public=True), members=members)
    await policies.add_policy(world.house, mara, body, on=True, now=world.now)
    await policies.set_share(world.house, mara, 50)
    id = await world.hear("hi")
    await propose(world, id)
    assert await told(world) == {first: 1}
    due = (await world.row(id))["due"]
    half = (due - world.now).total_seconds() / 2
    assert await approvals.ask_next(world.house, world.workspace_id, world.after(seconds=half - 1)) == 0
    assert await approvals.ask_next(world.house, world.workspace_id, world.after(seconds=half)) == 1
    assert await approvals.ask_next(world.house, world.workspace_id, world.after(seconds=half)) == 0
    assert await told(world) == {first: 1, second: 1}
    (one,) = await approvals.list_approvals(world.house, noor)
    assert [a["member"] for a in one["asked"]] == list(members)
    # Both may still consent, whoever was asked when.
    assert await approve(world, one["id"], id, first) is not None


async def test_who_is_away_is_passed_over_and_who_goes_is_followed_by_the_next(world: World) -> None:
    noor, mara = world.scopes["noor"], world.scopes["mara"]
    members = tuple(sorted((noor.member_id, mara.member_id)))
    first, second = ("mara", "noor") if members[0] == mara.member_id else ("noor", "mara")
    body = PolicyBody(name="All", when=PolicyWhen(public=True), members=members)
    await policies.add_policy(world.house, mara, body, on=True, now=world.now)

    async def leave(name: str) -> None:
        async with world.house.db.transact(world.workspace_id) as tx:
            await tx.execute(
                "insert into availability (workspace_id, member_id, away_from) values (%s, %s, %s)",
                [world.workspace_id, world.scopes[name].member_id, world.now],
            )

    before = await world.hear("hi")
    await propose(world, before)
    await leave(first)
    assert await approvals.ask_next(world.house, world.workspace_id, world.after(minutes=1)) == 1
    assert await told(world) == {first: 1, second: 1}
    after = await world.hear("ho", handle="rolf")
    await propose(world, after)
    assert await told(world) == {first: 1, second: 2}


async def test_the_share_is_10_to_90_percent_and_set_by_who_manages_rules(world: World) -> None:
    with pytest.raises(Invalid):
        await policies.set_share(world.house, world.scopes["mara"], 5)
    with pytest.raises(NotAllowed):
        await policies.set_share(world.house, world.scopes["ilse"], 50)
    await policies.set_share(world.house, world.scopes["noor"], 25)
    assert await policies.get_share(world.house, world.scopes["lise"]) == 25


async def test_a_policy_is_tried_on_what_was_sent(world: World) -> None:
    mara, ilse, noor = world.scopes["mara"], world.scopes["ilse"], world.scopes["noor"]
    for n, (who, text, public) in enumerate(
        (("mara", "You get a refund", True), ("ilse", "We refund it", False), ("ilse", "See you", True))
    ):
        id = await world.hear("hi", handle=f"p{n}")
        row = await world.row(id)
        given = {"public": public, "text": text, "seen_seq": row["seq"], "settle": False, "now": world.now}
        await answers.reply(world.house, world.scopes[who], id, **given)

    async def tried(days: int = 7, **when: Any) -> dict[str, Any]:
        body = PolicyBody(name="Money", when=PolicyWhen(**when), members=(noor.member_id,))
        return await policy_trials.try_policy(world.house, mara, body, days=days, now=world.after(minutes=1))

    told = await tried(words=("refund*",))
    assert (told["replies"], told["held"]) == (3, 2)
    assert {a["member"]: a["held"] for a in told["authors"]} == {mara.member_id: 1, ilse.member_id: 1}
    assert [(e["body"], e["members"], e["words"]) for e in told["examples"]] == [
        ("We refund it", [noor.member_id], ["refund"]),
        ("You get a refund", [noor.member_id], ["refund"]),
    ]
    assert (await tried(words=("refund*",), public=True))["held"] == 1
    assert (await tried(roles=("responder",)))["held"] == 2
    with pytest.raises(Invalid, match="1 to 90"):
        await tried(days=0)
    body = PolicyBody(name="x", when=PolicyWhen(), members=(noor.member_id,))
    with pytest.raises(NotAllowed):
        await policy_trials.try_policy(world.house, ilse, body, days=7, now=world.now)


async def test_what_an_approver_changes_is_judged_again(world: World) -> None:
    """A harmless answer edited into a promise needs the two consents that the promise needs."""
    await add_policy(world, name="Everything")
    await add_policy(world, name="Promises", count=2, words=("refund*",))
    id = await world.hear("Hello")
    proposal = await propose(world, id, text="Hello")
    assert await approve(world, proposal, id, "noor", "Hello, you get a refund of 900") is None
    assert await list_outside(world) == []
    (waits,) = await approvals.list_approvals(world.house, world.scopes["mara"])
    assert (waits["mine"], waits["waits_on"]) == (True, [world.scopes["mara"].member_id])
    assert await approve(world, proposal, id, "mara") is not None
    assert await list_outside(world) == ["Hello, you get a refund of 900"]


async def test_a_policy_made_meanwhile_counts_for_what_has_not_gone_out(world: World) -> None:
    await add_policy(world, name="Everything")
    id = await world.hear("Hello")
    proposal = await propose(world, id, text="You get a refund")
    await add_policy(world, name="Promises", count=2, words=("refund*",))
    assert await approve(world, proposal, id, "noor") is None
    assert await list_outside(world) == []


async def test_who_may_not_approve_any_more_cannot(world: World) -> None:
    await add_policy(world, count=1)
    id = await world.hear("Hello")
    proposal = await propose(world, id)
    noor = world.scopes["noor"]
    demoted = replace(noor, role=STARTING[Role.RESPONDER])
    seen = (await world.row(id))["seq"]
    given = {"seen_seq": seen, "text": None, "now": world.now}
    for call in (
        approvals.approve(world.house, demoted, proposal, **given),
        approvals.send_back(world.house, demoted, proposal, reason="No", now=world.now),
    ):
        with pytest.raises(NotAllowed):
            await call
    (shown,) = await approvals.list_approvals(world.house, demoted)
    assert shown["mine"] is False
    assert await list_outside(world) == []
    assert await approvals.approve(world.house, noor, proposal, **given) is not None


async def test_an_observer_named_in_a_policy_approves_nothing_and_it_says_so(world: World) -> None:
    lise, mara = world.scopes["lise"], world.scopes["mara"]
    body = PolicyBody(name="Board", when=PolicyWhen(public=True), members=(lise.member_id,))
    await policies.add_policy(world.house, mara, body, on=True, now=world.now)
    (policy,) = await policies.list_policies(world.house, mara)
    assert any("may not approve" in w for w in policy["warnings"])
    id = await world.hear("Hello")
    proposal = await propose(world, id)
    with pytest.raises(NotAllowed):
        await approve(world, proposal, id, "lise")
    (waits,) = await approvals.list_approvals(world.house, mara)
    assert (waits["too_few"], waits["waits_on"]) == (["Board"], [])
