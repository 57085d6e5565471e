"""Telling members by the ways they want: who hears of what, quiet hours, digests, text messages, each thing once."""

from dataclasses import dataclass, field, replace
from datetime import datetime, time, timedelta
from pathlib import Path

import pytest

from sorta.core.alerting import OCCASIONS, Digest, Habits, Wants
from sorta.core.errors import Impossible, Invalid, NotAllowed, NotFound
from sorta.core.parking import ParkFor
from sorta.core.ports import Letter, Unreachable
from sorta.core.rules import TellMembers
from sorta.networks.outgoing import Outgoing
from sorta.networks.texting import HttpTexting
from sorta.services import acts, alerts, phones, profiles, sign_in, sorting
from sorta.services.house import seen_by
from tests.services.test_groups import limit
from tests.services.test_people import person_of
from tests.services.test_ruling import add
from tests.world import OUTSIDE, PASSWORD, World

pytestmark = pytest.mark.anyio


@dataclass
class Post:
    """Takes letters, or fails as it is told; one that fails may have taken it all the same."""

    failures: list[Exception] = field(default_factory=list)
    letters: list[Letter] = field(default_factory=list)

    async def send(self, letter: Letter) -> None:
        self.letters.append(letter)
        if self.failures:
            raise self.failures.pop(0)


@pytest.fixture
def post(world: World) -> Post:
    made = Post()
    world.house = replace(world.house, post=made, address="http://desk.test")
    return made


@pytest.fixture
def texting(world: World) -> None:
    world.house = replace(
        world.house,
        texting=HttpTexting(Outgoing(world.outside), f"{OUTSIDE}/texting", "tok_texting"),
        address="http://desk.test",
    )


async def tell(world: World, key: str, *who: str, occasion: str = "late", now: datetime | None = None) -> list[int]:
    async with world.house.db.transact(world.workspace_id) as tx:
        return await alerts.add_alerts(
            tx,
            members=[world.scopes[name].member_id for name in who or ("mara",)],
            occasion=occasion,
            words=f"It is {key}.",
            conversation_id=None,
            key=key,
            now=now or world.now,
        )


async def mail(world: World, at: datetime | None = None) -> int:
    return await alerts.mail_alerts(world.house, world.workspace_id, at or world.now)


async def text(world: World, at: datetime | None = None) -> int:
    return await alerts.text_alerts(world.house, world.workspace_id, at or world.now)


async def told(world: World, who: str) -> list[tuple[str, str]]:
    found = await alerts.list_alerts(world.house, world.scopes[who], 20)
    return [(a["occasion"], a["words"]) for a in found["alerts"]][::-1]


async def list_texts(world: World) -> list[tuple[str, str]]:
    return [(t["to"], t["text"]) for t in (await world.outside.get("/control/texts")).json()]


# -- what one is told of ----------------------------------------------------------------------------------------


async def test_who_is_given_something_or_named_hears_of_it_once_with_the_note(world: World) -> None:
    house, mara, ilse = world.house, world.scopes["mara"], world.scopes["ilse"]
    id = await world.hear("Hello")
    await acts.assign(house, mara, id, owner_id=ilse.member_id, note="You know her, @Ilse and @Ana", now=world.now)
    assert await told(world, "ilse") == [("given", "Mara Person gave you Petra: You know her, @Ilse and @Ana")]
    assert [o for o, _ in await told(world, "ana")] == ["named"]
    # Taken oneself, given again to who has it, given to nobody: no news.
    await acts.assign(house, ilse, id, owner_id=ilse.member_id, note=None, now=world.now)
    await acts.assign(house, mara, id, owner_id=ilse.member_id, note=None, now=world.now)
    await acts.assign(house, mara, id, owner_id=None, note=None, now=world.now)
    await acts.assign(house, mara, id, owner_id=mara.member_id, note=None, now=world.now)
    await acts.add_note(
        house, ilse, id, text="Done. @Mara @Ilse, see @Nobody and lise@brinewick.example", now=world.now
    )
    assert await told(world, "mara") == [
        ("named", "Ilse Person named you in a note on Petra: Done. @Mara @Ilse, see @Nobody and lise@brinewick.example")
    ]
    assert len(await told(world, "ilse")) == 1
    assert await told(world, "lise") == []


async def test_a_team_hears_of_what_it_is_given_where_somebody_wants_that(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [world.scopes[name].member_id for name in ("mara", "ilse", "ana")]
    team = await sorting.add_team(house, world.workspace_id, "Shop", ids)
    await alerts.set_choice(house, world.scopes["ana"], "given_team", Wants())
    await alerts.set_choice(house, mara, "given_team", Wants())
    id = await world.hear("Hello")
    await acts.assign(house, mara, id, owner_id=None, team_id=team, note=None, now=world.now)
    assert await told(world, "ana") == [("given_team", "Mara Person gave Petra to Shop.")]
    assert await told(world, "ilse") == await told(world, "mara") == []


async def test_nobody_hears_of_what_they_do_not_see(world: World) -> None:
    await limit(world, "ilse", "pixfern")
    id = await world.hear("Hello", network="commonfold")
    await acts.add_note(world.house, world.scopes["mara"], id, text="@Ilse @Ana", now=world.now)
    assert await told(world, "ilse") == []
    assert len(await told(world, "ana")) == 1


async def test_who_is_limited_tells_others_by_every_way_these_want(world: World, post: Post) -> None:
    await limit(world, "ilse", "commonfold")
    id = await world.hear("Hello", network="commonfold")
    ilse = world.scopes["ilse"]
    with seen_by(ilse.member_id):
        await acts.add_note(world.house, ilse, id, text="@Noor look", now=world.now)
    assert len(await told(world, "noor")) == 1
    assert await mail(world) == 1
    assert post.letters[0].to == "noor@brinewick.example"


async def test_one_hears_of_what_comes_in_by_account_kind_and_words_and_of_no_more(world: World) -> None:
    house, ilse, noor = world.house, world.scopes["ilse"], world.scopes["noor"]
    pixfern = world.accounts["pixfern"].id
    await alerts.add_watch(house, ilse, accounts=[], kinds=[], words=["leak*", "the seal"])
    await alerts.add_watch(house, ilse, accounts=[pixfern], kinds=["private_message"], words=[])
    id = await alerts.add_watch(house, noor, accounts=[pixfern], kinds=[], words=["seal"])
    await world.hear("It is LEAKING here", handle="wet")
    await world.hear("Nothing to see", handle="dry")
    await world.hear("The seal leaks", network="pixfern", kind="private", handle="pia")
    assert [o for o, _ in await told(world, "ilse")] == ["came_in", "came_in"], "of one thing once, by whichever"
    assert (await told(world, "noor")) == [("came_in", "Pia, “The seal leaks”")]
    await alerts.delete_watch(house, noor, id)
    await world.hear("Another seal", network="pixfern", kind="private", handle="pub")
    assert len(await told(world, "noor")) == 1
    shown = (await alerts.describe(house, ilse))["watches"]
    assert [(w["words"], w["accounts"], w["kinds"]) for w in shown] == [
        (["leak*", "the seal"], [], []),
        ([], [pixfern], ["private_message"]),
    ]
    for wrong in ({"words": []}, {"words": ["..."]}, {"accounts": [999]}, {"words": [f"w{n}" for n in range(21)]}):
        with pytest.raises(Invalid):
            await alerts.add_watch(house, ilse, **{"accounts": [], "kinds": [], "words": [], **wrong})
    with pytest.raises(NotFound):
        await alerts.delete_watch(house, ilse, id)


async def test_who_is_limited_hears_of_what_begins_by_their_accounts_and_of_no_other(world: World) -> None:
    """A conversation that has just begun is there when it is asked whether they see it: by rules too."""
    await limit(world, "ilse", "pixfern")
    ilse = world.scopes["ilse"].member_id
    await add(world, TellMembers(members=(ilse,)), name="Tell her")
    await alerts.add_watch(world.house, world.scopes["ilse"], accounts=[], kinds=[], words=["seal"])
    await world.hear("The seal, here", network="commonfold", handle="one")
    await world.hear("The seal, there", network="pixfern", handle="two")
    assert sorted(await told(world, "ilse")) == [
        ("came_in", "Two, “The seal, there”"),
        ("rule", "Tell her: Two, “The seal, there”"),
    ]


async def test_a_follow_up_is_told_when_it_is_due_and_again_only_at_another_time(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    person = await person_of(world, await world.hear("Hello"))
    due = world.after(hours=1)
    await profiles.add_follow_up(house, mara, person, words="Ring her", due_at=due, member_id=None, now=world.now)
    times = [await alerts.tell_follow_ups(house, world.workspace_id, due + timedelta(minutes=m)) for m in (-1, 0, 1, 2)]
    assert times == [0, 1, 0, 0]
    assert await told(world, "mara") == [("follow_up", "Follow up on Petra: Ring her")]


async def test_what_was_parked_is_told_once_to_whom_it_is_with_or_to_who_parked_it(world: World) -> None:
    house, mara, ilse = world.house, world.scopes["mara"], world.scopes["ilse"]
    theirs, nobodys = await world.hear("one"), await world.hear("two", handle="jonas")
    await acts.assign(house, mara, theirs, owner_id=ilse.member_id, team_id=None, note=None, now=world.now)
    for id in (theirs, nobodys):
        await acts.park(house, mara, id, choice=ParkFor.THREE_HOURS, until=None, now=world.now)
    for hours in (2, 3, 3, 4):
        await acts.return_parked(house, world.workspace_id, world.after(hours=hours))
    assert [t for t in await told(world, "ilse") if t[0] == "back"] == [("back", "Petra is back from being parked.")]
    assert await told(world, "mara") == [("back", "Jonas is back from being parked.")]


# -- by which ways ------------------------------------------------------------------------------------------------


async def test_ones_own_choice_goes_before_the_workspaces_and_that_before_what_is_usual(
    world: World, post: Post
) -> None:
    house, mara, noor = world.house, world.scopes["mara"], world.scopes["noor"]
    assert await tell(world, "one") != []
    assert await mail(world) == 1
    await alerts.set_default(house, noor, "late", Wants(mail=False, device=False))
    await tell(world, "two")
    assert await mail(world) == 0
    assert (await alerts.list_alerts(house, mara, 1))["alerts"][0]["on_device"] is False
    await alerts.set_choice(house, mara, "late", Wants(here=False, mail=True))
    await tell(world, "three", "mara", "ilse")
    assert await mail(world) == 1
    assert (await alerts.list_alerts(house, mara, 1))["unread"] == 2, "what is not wanted here is read here"
    shown = {c["occasion"]: c for c in (await alerts.describe(house, mara))["choices"]}
    assert (shown["late"]["is_own"], shown["late"]["here"], shown["late"]["mail"]) == (True, False, True)
    await alerts.forget_choices(house, mara)
    shown = {c["occasion"]: c for c in (await alerts.describe(house, mara))["choices"]}
    assert (shown["late"]["is_own"], shown["late"]["here"], shown["late"]["mail"]) == (False, True, False)
    await alerts.set_choice(house, mara, "late", Wants(here=False))
    assert await tell(world, "four") == [], "by no way: nobody is told"
    with pytest.raises(NotAllowed):
        await alerts.set_default(house, world.scopes["ilse"], "late", Wants())
    for wrong in (alerts.set_choice(house, mara, "rain", Wants()), alerts.set_default(house, noor, "rain", Wants())):
        with pytest.raises(Invalid):
            await wrong


async def test_quiet_hours_hold_mails_and_text_messages_and_no_device_makes_itself_heard(
    world: World, post: Post
) -> None:
    """It is 13:00 in Copenhagen."""
    house, mara = world.house, world.scopes["mara"]
    await alerts.set_habits(house, mara, Habits(quiet_from=time(12), quiet_until=time(15, 30)))
    await tell(world, "one", "mara", "ilse")
    assert await mail(world) == 1
    assert [letter.to for letter in post.letters] == ["ilse@brinewick.example"]
    assert (await alerts.list_alerts(house, mara, 1))["alerts"][0]["on_device"] is False
    await tell(world, "two", now=world.after(minutes=30))
    assert await mail(world, world.after(minutes=149)) == 0
    assert await mail(world, world.after(minutes=150)) == 1
    assert [word in post.letters[1].text for word in ("one", "two")] == [True, True], "in one letter"
    assert post.letters[1].subject == "Aquarium: 2 things"
    with pytest.raises(Invalid) as wrong:
        await alerts.set_habits(house, mara, Habits(quiet_from=time(12)))
    assert wrong.value.field == "quiet_from"


async def test_a_digest_gathers_and_what_is_tried_again_is_the_same_letter(world: World, post: Post) -> None:
    """A letter that got no answer may be there already: what came since goes with the next, not with that one again."""
    await alerts.set_habits(world.house, world.scopes["mara"], Habits(digest=Digest.HOURLY))
    for minute, key in ((1, "one"), (20, "two")):
        await tell(world, key, now=world.after(minutes=minute))
    assert await mail(world, world.after(minutes=59)) == 0
    post.failures = [Unreachable("no mail today")]
    assert await mail(world, world.after(hours=1)) == 0
    await tell(world, "three", now=world.after(minutes=60, seconds=-1))
    assert await mail(world, world.after(hours=1, minutes=5)) == 1
    assert [(x.key, x.text.count("http")) for x in post.letters] == [(post.letters[0].key, 2)] * 2
    assert await mail(world, world.after(hours=1, minutes=6)) == 1
    assert "three" in post.letters[2].text
    assert post.letters[2].key != post.letters[0].key
    assert await mail(world, world.after(hours=2)) == 0


async def test_what_was_not_taken_for_long_is_news_no_more(world: World, post: Post) -> None:
    await tell(world, "one")
    assert await mail(world, world.after(hours=3)) == 0
    assert len(await told(world, "mara")) == 1


async def test_more_than_a_letter_holds_goes_with_the_next(world: World, post: Post) -> None:
    await alerts.set_habits(world.house, world.scopes["mara"], Habits(digest=Digest.HOURLY))
    for n in range(alerts.MOST_TOGETHER + 3):
        await tell(world, f"key {n}")
    assert [await mail(world, world.after(hours=1, seconds=n)) for n in range(3)] == [1, 1, 0]
    assert sorted(letter.text.count("http") for letter in post.letters) == [3, alerts.MOST_TOGETHER]


# -- text messages ----------------------------------------------------------------------------------------------------


async def sign_in_as(world: World, name: str) -> str:
    known = await sign_in.sign_in(
        world.house, email=f"{name}@brinewick.example", password=PASSWORD, came_from="here", now=world.now
    )
    return known.token


async def confirm(world: World, token: str, number: str = "+45 12 34 56 78") -> str:
    await phones.begin(world.house, token, number, world.now)
    to, said = (await list_texts(world))[0]
    code = said.split(" ")[0]
    assert await phones.confirm(world.house, token, f"{code[:3]} {code[3:]}", world.after(minutes=1)) == to
    return to


async def test_text_messages_go_to_the_number_whose_code_was_said_once(world: World, texting: None) -> None:
    mara = world.scopes["mara"]
    await alerts.set_choice(world.house, mara, "late", Wants(text=True))
    await tell(world, "before there is a number")
    token = await sign_in_as(world, "mara")
    number = await confirm(world, token)
    assert (await alerts.describe(world.house, mara))["phone"] == number == "+4512345678"
    await tell(world, "one")
    await tell(world, "two")
    assert await text(world) == 1
    assert await text(world, world.after(seconds=90)) == 0
    assert (await list_texts(world))[0] == (number, "Aquarium: It is one. and 1 more http://desk.test/w/1/desk")
    await phones.remove(world.house, token, world.now)
    await tell(world, "three")
    assert await text(world) == 0


async def test_a_long_word_is_cut_and_the_address_stays(world: World, texting: None) -> None:
    await alerts.set_choice(world.house, world.scopes["mara"], "late", Wants(text=True))
    await confirm(world, await sign_in_as(world, "mara"))
    await tell(world, "x" * 900)
    await text(world)
    said = (await list_texts(world))[0][1]
    assert len(said) <= alerts.LONGEST_TEXT
    assert said.endswith("http://desk.test/w/1/desk/")


async def test_codes_are_few_short_lived_and_counted(world: World, texting: None) -> None:
    token = await sign_in_as(world, "mara")
    await phones.begin(world.house, token, "+4512345678", world.now)
    code = (await list_texts(world))[0][1].split(" ")[0]
    wrong = f"{(int(code) + 1) % 10**6:06}"
    for _ in range(phones.MOST_TRIES):
        with pytest.raises(Invalid):
            await phones.confirm(world.house, token, wrong, world.now)
    with pytest.raises(Impossible, match="over"):
        await phones.confirm(world.house, token, code, world.now)
    await phones.begin(world.house, token, "+4512345678", world.now)
    code = (await list_texts(world))[0][1].split(" ")[0]
    with pytest.raises(Impossible, match="over"):
        await phones.confirm(world.house, token, code, world.after(minutes=11))
    # Nobody else's code, and none twice.
    with pytest.raises(Impossible):
        await phones.confirm(world.house, await sign_in_as(world, "ilse"), code, world.now)
    await phones.confirm(world.house, token, code, world.now)
    with pytest.raises(Impossible):
        await phones.confirm(world.house, token, code, world.now)
    for _ in range(phones.MOST_SENT - 2):
        await phones.begin(world.house, token, "+4512345678", world.now)
    with pytest.raises(Impossible, match="tomorrow"):
        await phones.begin(world.house, token, "+4512345678", world.now)
    await phones.begin(world.house, token, "+4512345678", world.after(days=1, seconds=1))


async def test_a_number_that_is_nobodys_is_said_and_holds_up_nobody(world: World, texting: None) -> None:
    house, token = world.house, await sign_in_as(world, "mara")
    with pytest.raises(Invalid) as wrong:
        await phones.begin(house, token, "+45 12 34 00 00", world.now)
    assert (wrong.value.field, "Nobody has this number" in wrong.value.message) == ("phone", True)
    for who, number in (("mara", "+4512345678"), ("ilse", "+4587654321")):
        await alerts.set_choice(house, world.scopes[who], "late", Wants(text=True))
        await confirm(world, await sign_in_as(world, who), number)
    async with house.db.connect() as conn:
        await conn.execute("update member set phone = '+4512340000' where email like 'mara@%'")
    await tell(world, "one", "mara", "ilse")
    assert await text(world) == 1
    assert (await alerts.describe(house, world.scopes["mara"]))["text_refused"] == "Nobody has this number."
    assert (await list_texts(world))[0][0] == "+4587654321"


async def test_a_gateway_that_lets_us_in_no_more_is_asked_again(world: World, texting: None) -> None:
    await alerts.set_choice(world.house, world.scopes["mara"], "late", Wants(text=True))
    await confirm(world, await sign_in_as(world, "mara"))
    await tell(world, "one")
    known = world.house
    world.house = replace(known, texting=HttpTexting(Outgoing(world.outside), f"{OUTSIDE}/texting", "wrong"))
    assert await text(world) == 0
    with pytest.raises(Impossible, match="again"):
        await phones.begin(world.house, await sign_in_as(world, "mara"), "+4512345678", world.now)
    world.house = known
    assert await text(world, world.after(minutes=1)) == 1


def test_every_occasion_is_told_of_somewhere() -> None:
    """A row of the matrix of which nothing is ever told would be a promise nobody keeps."""
    said = "".join(p.read_text() for p in Path("sorta/services").glob("*.py"))
    assert [o for o in OCCASIONS if f'"{o}"' not in said] == []
