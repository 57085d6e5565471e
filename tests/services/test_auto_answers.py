"""What goes out by itself, and everything that must keep it from going out (docs/trade.md 6)."""

from typing import Any

import pytest

from sorta.core.errors import Invalid
from sorta.core.events import Offered
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.ports import Moderation
from sorta.core.reading import ReadsAs
from sorta.core.rules import (
    AnswerWith,
    BringBack,
    Conditions,
    FirstMessage,
    HandItOver,
    HasWords,
    HideIt,
    LikeIt,
    NobodyAnswered,
    ParkIt,
    ReadsAsOneOf,
    RuleBody,
    SetPriority,
    SettleIt,
)  # fmt: skip
from sorta.core.targets import Priority
from sorta.core.texts import SavedReplyBody
from sorta.services import acts, delivery, desk, moderation, rules, texts
from sorta.services.checking import find_differences
from sorta.services.events import list_events
from sorta.store import persons
from tests.services.test_acts import reply
from tests.services.test_ruling import add, answers_outside, hits
from tests.world import World

pytestmark = pytest.mark.anyio
HELLO = AnswerWith(language="any", text="Hello, we have seen this")


async def why(world: World, rule: int) -> list[Any]:
    """Why a rule did not answer, message by message; None where it did."""
    return [next((x.get("why") for x in hit["lost"]), None) for hit in await hits(world, rule)]


async def go(world: World, **span: float) -> list[str]:
    for _ in range(3):
        await delivery.deliver_due(world.house, world.workspace_id, world.after(**span))
    return await answers_outside(world)


async def hear_twice(world: World) -> tuple[int, str]:
    """A first message; its conversation, and its post, for a second one."""
    post = (await world.publish())["object"]["id"]
    return await world.hear("The gate is stuck", parent=post), post


async def test_never_after_a_member_has_answered(world: World) -> None:
    id, post = await hear_twice(world)
    rule = await add(world, HELLO)
    await reply(world, id, "We look into it")
    await world.hear("Still stuck", parent=post, at=world.after(minutes=5))
    assert await why(world, rule) == ["member_answered"]


async def test_never_after_it_was_answered_on_the_network_itself(world: World) -> None:
    first = await world.say("The gate is stuck")
    await world.take(first)
    rule = await add(world, HELLO)
    ours = await world.say(
        "We know", kind="reply", parent=first["object"]["id"], handle="brinewick", at=world.after(minutes=1)
    )
    again = await world.say("Still stuck", kind="reply", parent=first["object"]["id"], at=world.after(minutes=2))
    await world.take(ours, again, now=world.after(minutes=2))
    assert await why(world, rule) == ["member_answered"]


async def test_never_while_a_member_is_writing(world: World) -> None:
    id, post = await hear_twice(world)
    rule = await add(world, HELLO)
    await desk.set_presence(world.house, world.scopes["ilse"], id, "writing", world.now)
    await world.hear("Still stuck", parent=post, at=world.after(seconds=5))
    assert await why(world, rule) == ["member_writing"]
    await desk.set_presence(world.house, world.scopes["ilse"], id, "reading", world.after(minutes=2))
    await world.hear("And now?", parent=post, at=world.after(minutes=3))
    assert await why(world, rule) == ["member_writing", None]
    sheet = await desk.get_sheet(world.house, world.scopes["ilse"], id, world.now)
    told = "The rule “A rule” did not answer: one of us was writing an answer."
    assert [m["not_done"] for m in sheet["messages"] if m["inbound"]] == [[], [told], []]


async def test_once_per_conversation_and_once_a_day_per_person_whichever_rule(world: World) -> None:
    _, post = await hear_twice(world)
    one = await add(world, HELLO, when=(HasWords(words=("one",)),))
    two = await add(world, AnswerWith(language="any", text="Another"), when=(HasWords(words=("two",)),))
    await world.hear("one", parent=post)
    await world.hear("two", parent=post, at=world.after(days=3))
    assert await why(world, two) == ["answered_before"]
    await world.hear("two", at=world.after(hours=5))
    assert await why(world, two) == ["answered_before", "person_today"]
    await world.hear("two", at=world.after(hours=25))
    assert (await why(world, one), await why(world, two)) == ([None], ["answered_before", "person_today", None])


async def test_never_to_what_was_junk_or_to_who_is_blocked(world: World) -> None:
    id, post = await hear_twice(world)
    rule = await add(world, HELLO, LikeIt())
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.JUNK, now=world.now)
    await world.hear("Buy now", parent=post, at=world.after(minutes=1))
    assert [[x.get("why") for x in hit["lost"]] for hit in await hits(world, rule)] == [["junk", "junk"]]
    row = await world.row(id)
    async with world.house.db.transact(world.workspace_id) as tx:
        await persons.set_blocked(tx, row["person_id"], blocked=True)
    await world.hear("Elsewhere", at=world.after(minutes=2))
    assert [x["why"] for x in (await hits(world, rule))[-1]["lost"]] == ["blocked", "blocked"]


async def test_nobody_is_liked_of_whom_something_is_hidden(world: World) -> None:
    hide = await add(world, HideIt(), when=(HasWords(words=("rude",)),))
    like = await add(world, LikeIt())
    await world.hear("rude thing")
    await go(world, minutes=1)
    await world.hear("lovely thing", at=world.after(minutes=2))
    assert (await hits(world, hide))[0]["effects"] == ["hide"]
    assert [h["effects"] for h in await hits(world, like)] == [[], []]
    assert (await hits(world, like))[0]["lost"][0]["to"] == hide, (
        "hidden by one rule, liked by none, whichever stands higher"
    )
    assert (await hits(world, like))[1]["lost"] == [{"effect": "like", "why": "hidden"}]


async def test_only_in_the_language_it_was_written_for(world: World) -> None:
    """English words, with the language read from them; a French question, a Danish one, one that cannot be told."""
    english = await add(world, AnswerWith(text="Thank you for writing to us, we are closed at night"))
    danish = await add(world, AnswerWith(text="Tak fordi du skriver til os, vi har lukket om natten"))
    for n, text in enumerate(
        (
            "Bonjour, est-ce que le musée est ouvert le dimanche de Pâques ?",
            "Hvornår har I åbent i påsken, og kan man købe billetter i døren?",
            "Are you open on Sunday, and can I buy tickets at the door?",
            "12345",
        )
    ):
        await world.hear(text, handle=f"p{n}", at=world.after(minutes=n))
    assert await why(world, english) == ["language", "language", None, "language"]
    assert [h["effects"] for h in await hits(world, danish)] == [[], ["reply"], [], []]
    with pytest.raises(Invalid, match="which language"):
        await add(world, AnswerWith(text="🙂 123"))
    saved = await texts.add_saved_reply(world.house, world.scopes["mara"], SavedReplyBody(name="F", text="Merci", language="fr"), world.now)  # fmt: skip
    french = await add(world, AnswerWith(saved=saved))
    await world.hear("Bonjour, est-ce que le musée est ouvert le dimanche ?", handle="p9", at=world.after(minutes=9))
    assert await why(world, french) == [None]
    await texts.set_saved_reply(world.house, world.scopes["mara"], saved, SavedReplyBody(name="F", text="Merci", language="de"), world.now)  # fmt: skip
    await world.hear("Bonjour, est-ce que le musée est ouvert le lundi ?", handle="p8", at=world.after(minutes=10))
    assert await why(world, french) == [None, "language"], "the language of a saved reply counts as it is now"


async def test_a_name_that_is_not_known_is_left_out_of_the_sentence(world: World) -> None:
    await add(world, AnswerWith(language="any", text="Thank you for telling us, {first name}."))
    await world.hear("The gate is stuck", handle="x_99", name="x_99")
    assert await go(world, minutes=1) == ["Thank you for telling us."]


async def test_a_link_that_is_gone_sends_nothing(world: World) -> None:
    rule = await add(world, AnswerWith(language="any", text="See {link:tickets}"))
    await world.hear("The gate is stuck")
    assert await why(world, rule) == ["link_gone"]


@pytest.mark.parametrize("doing", ["reply", "settle", "outside", "block", "hand over"])
async def test_in_its_grace_it_is_called_back_by_whatever_makes_it_needless(world: World, doing: str) -> None:
    from tests.services.test_cases import hand_over

    await add(world, HELLO)
    first = await world.say("The gate is stuck", network="commonfold")
    await world.take(first)
    known = await world.find(first["object"]["id"])
    mara, id = world.scopes["mara"], known.conversation_id
    assert (await world.row(id))["answering"], "on its way, for the grace"
    match doing:
        case "reply":
            await reply(world, id, "We look into it", now=world.after(seconds=3))
        case "settle":
            await acts.settle(world.house, mara, id, how=SettledAs.JUNK, now=world.after(seconds=3))
        case "outside":
            ours = await world.say("We know", kind="reply", parent=first["object"]["id"], handle="brinewick", at=world.after(seconds=3))  # fmt: skip
            await world.take(ours, now=world.after(seconds=4))
        case "block":
            await moderation.moderate(world.house, mara, known.id, what=Moderation.BLOCK, now=world.after(seconds=3))
        case "hand over":
            await hand_over(world, id, seconds=3)
    sent = await go(world, minutes=1)
    assert "Hello, we have seen this" not in sent
    trail = (await desk.get_sheet(world.house, mara, id, world.after(minutes=1)))["trail"]
    (undone,) = [e for e in trail if e["kind"] == "undone"]
    assert undone["member_id"] is None
    assert undone["data"].reason
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_the_new_conditions_first_message_and_nobody_has_answered(world: World) -> None:
    first = await add(world, SetPriority(priority=Priority.HIGH), when=(FirstMessage(),))
    nobody = await add(world, LikeIt(), when=(NobodyAnswered(),))
    id, post = await hear_twice(world)
    await world.hear("Two", parent=post, at=world.after(minutes=1))
    assert (len(await hits(world, first)), len(await hits(world, nobody))) == (1, 2)
    await reply(world, id, "We look into it", now=world.after(minutes=2))
    await world.hear("Three", parent=post, at=world.after(minutes=3))
    assert (len(await hits(world, first)), len(await hits(world, nobody))) == (1, 2)


async def test_two_that_exclude_each_other_never_both_happen(world: World) -> None:
    settle = await add(world, SettleIt(), when=(HasWords(words=("a",)),))
    park = await add(world, ParkIt(choice=ParkFor.TOMORROW))
    hand = await add(world, HandItOver(desk=world.desk_id))
    id = await world.hear("a b")
    assert [(await hits(world, r))[0]["effects"] for r in (settle, park, hand)] == [["settle"], [], []]
    assert [x["to"] for x in (await hits(world, hand))[0]["lost"]] == [settle]
    assert (await world.row(id))["settled_as"] == SettledAs.NO_REPLY_NEEDED
    other = await world.hear("b", handle="other")
    assert ((await world.row(other))["move"], (await hits(world, hand))[-1]["effects"]) == ("parked", [])


async def test_junk_is_not_answered_whichever_rule_says_so(world: World) -> None:
    await add(world, HELLO)
    await add(world, SettleIt(how="junk"), when=(HasWords(words=("casino",)),))
    await world.hear("casino")
    assert await go(world, minutes=1) == []
    for then in ((SettleIt(how="junk"), HELLO), (LikeIt(), HideIt()), (ParkIt(choice=ParkFor.TOMORROW), SettleIt())):
        with pytest.raises(Invalid, match="cannot both"):
            await add(world, *then)


async def test_a_rule_can_say_that_thanks_need_an_answer(world: World) -> None:
    first = await world.say("The gate is stuck")
    await world.take(first)
    id = (await world.find(first["object"]["id"])).conversation_id
    settling = await add(world, SettleIt(), SetPriority(priority=Priority.HIGH))
    await acts.settle(world.house, world.scopes["mara"], id, how=SettledAs.ANSWERED, now=world.now)
    more = {"kind": "reply", "parent": first["object"]["id"]}
    await world.take(await world.say("thanks!", at=world.after(minutes=1), **more), now=world.after(minutes=1))
    row = await world.row(id)
    assert (row["settled_as"], row["thanked"] is not None) == (SettledAs.ANSWERED, True), "how it was settled stays"
    assert (await hits(world, settling))[0]["lost"] == [{"effect": "settle", "why": "only_thanks"}]
    await rules.remove_rule(world.house, world.scopes["mara"], settling, world.now)
    await add(world, BringBack(), when=(ReadsAsOneOf(reads_as=(ReadsAs.THANKS,)),))
    await world.take(await world.say("thank you", at=world.after(minutes=2), **more), now=world.after(minutes=2))
    row = await world.row(id)
    assert (row["move"], row["awaiting_since"], row["thanked"]) == ("our_move", world.after(minutes=2), None)
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_a_rule_that_hands_over_withdraws_what_waits_for_approval(world: World) -> None:
    from tests.services.test_approvals import add_policy, propose

    await add_policy(world)
    id, post = await hear_twice(world)
    await propose(world, id)
    await add(world, HandItOver(desk=world.desk_id))
    await world.hear("And a refund please", parent=post, at=world.after(minutes=1))
    row = await world.row(id)
    assert (row["settled_as"], row["proposal_waiting"]) == (SettledAs.HANDED_OVER, False)


async def test_an_answer_that_is_offered_goes_nowhere_until_a_member_sends_it(world: World) -> None:
    rule = await add(world, AnswerWith(language="any", text="Sorry, {first name|there}", offer=True))
    id, _ = await hear_twice(world)
    async with world.house.db.transact(world.workspace_id) as tx:
        trail = await list_events(tx, id)
    offered = [(e.what, e.rule and e.rule.id) for e in trail if isinstance(e.what, Offered)]
    assert [(o.text[:5], o.public, o.saved, by) for o, by in offered] == [("Sorry", True, None, rule)]
    assert await go(world, minutes=1) == []
    assert (await hits(world, rule))[-1]["effects"] == ["reply"]
    await reply(world, id, offered[0][0].text)
    assert len(await go(world, minutes=1)) == 1
    assert await find_differences(world.house, world.workspace_id, world.now) == {}


async def test_nothing_is_offered_for_whom_is_blocked(world: World) -> None:
    id, post = await hear_twice(world)
    rule = await add(world, AnswerWith(language="any", text="Sorry", offer=True))
    row = await world.row(id)
    async with world.house.db.transact(world.workspace_id) as tx:
        await persons.set_blocked(tx, row["person_id"], blocked=True)
    await world.hear("Again", parent=post, at=world.after(minutes=2))
    assert await why(world, rule) == ["blocked"]


def test_a_rule_that_only_offers_sends_no_words_out() -> None:
    when = Conditions(parts=(FirstMessage(),))
    assert not rules.answers_by_itself(RuleBody(name="x", when=when, then=(AnswerWith(text="Hi", offer=True),)))
    assert rules.answers_by_itself(RuleBody(name="x", when=when, then=(AnswerWith(text="Hi"),)))
