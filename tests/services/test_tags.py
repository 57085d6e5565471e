"""A workspace's tags: made, renamed, retired, merged with all that names them; and its teams. The rules are our own, see docs/trade.md 1."""

from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.draw import DrawRules
from sorta.core.errors import Invalid, NotAllowed, NotFound
from sorta.core.facts import SettledAs
from sorta.core.periods import Named
from sorta.core.rules import AddTags, Conditions, PersonHasTag, RuleBody
from sorta.services import acts, draws, policies, profiles, reports, rules, sorting, tags, team
from sorta.services.checking import find_differences
from sorta.services.reports import Ask
from tests.services.test_sorting import rows
from tests.world import World

pytestmark = pytest.mark.anyio


async def by_name(world: World) -> dict[str, dict[str, Any]]:
    return {t["name"]: t for t in await tags.list_tags(world.house, world.scopes["mara"])}


async def put_on(world: World, id: int, name: str, **more: Any) -> int:
    return await acts.tag(world.house, world.scopes["mara"], id, name=name, on=True, now=world.now, **more)


async def test_a_tag_is_made_renamed_and_told_with_what_has_it(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    id = await tags.add_tag(house, mara, name=" Lost  property ", heading="Visits")
    with pytest.raises(Invalid, match="There is a tag called lost PROPERTY already"):
        await tags.add_tag(house, mara, name="lost PROPERTY", heading="")
    a, b = await world.hear("hi", handle="a"), await world.hear("hi", handle="b")
    await put_on(world, a, "lost property")
    await put_on(world, b, "lost property")
    await acts.settle(house, mara, b, how=SettledAs.NO_REPLY_NEEDED, now=world.now)
    await acts.tag_person(house, mara, a, name="Lost property", on=True, now=world.now)
    await tags.set_tag(house, mara, id, name="Found things", heading="", retired=False, now=world.now)
    told = (await by_name(world))["Found things"]
    assert (told["id"], told["conversations"], told["open"], told["people"]) == (id, 2, 1, 1)
    assert (told["heading"], told["named_by"]) == ("", [])
    assert (await sorting.get_directory(house, mara))["own_tags"] == [id]
    assert (await sorting.get_directory(house, world.scopes["ilse"]))["own_tags"] == []
    with pytest.raises(NotFound):
        await tags.set_tag(house, mara, id + 999, name="x", heading="", retired=False, now=world.now)
    with pytest.raises(NotAllowed):
        await tags.set_tag(house, world.scopes["lise"], id, name="x", heading="", retired=False, now=world.now)


async def test_a_retired_tag_stays_where_it_is_and_is_put_on_no_more(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    a, b = await world.hear("hi", handle="a"), await world.hear("hi", handle="b")
    await put_on(world, a, "Summer fair")
    id = (await by_name(world))["Summer fair"]["id"]
    rule = RuleBody(name="Fairs", when=Conditions(parts=(PersonHasTag(tags=(id,)),)), then=(AddTags(tags=(id,)),))
    rule_id = await rules.add_rule(house, mara, rule, on=False, now=world.now)
    with pytest.raises(Invalid, match="rule “Fairs” names it"):
        await tags.set_tag(house, mara, id, name="Summer fair", heading="", retired=True, now=world.now)
    await rules.remove_rule(house, mara, rule_id, world.now)
    await tags.set_tag(house, mara, id, name="Summer fair", heading="", retired=True, now=world.now)
    with pytest.raises(Invalid, match="is retired"):
        await put_on(world, b, "summer fair")
    assert await rows(world, move="our_move", tag=[id]) == [a]
    await acts.tag(house, mara, a, name="Summer fair", on=False, now=world.now)
    await tags.set_tag(house, mara, id, name="Summer fair", heading="", retired=False, now=world.now)
    await put_on(world, b, "summer fair")
    assert await rows(world, move="our_move", tag=[id]) == [b]


async def test_a_merged_tag_becomes_the_other_everywhere(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"h{n}") for n in range(4)]
    seqs = [await put_on(world, id, "refnud") for id in ids[:3]]
    await put_on(world, ids[2], "Refund")
    await put_on(world, ids[3], "Refund")
    await acts.tag_person(house, mara, ids[0], name="refnud", on=True, now=world.now)
    slip, good = [(await by_name(world))[name]["id"] for name in ("refnud", "Refund")]
    body = RuleBody(
        name="Money",
        when=Conditions(parts=(PersonHasTag(tags=(slip, good)),)),
        then=(AddTags(tags=(slip,)),),
    )
    await rules.add_rule(house, mara, body, on=True, now=world.now)
    policy = PolicyBody(name="Money", when=PolicyWhen(tags=(slip,)), members=(mara.member_id,))
    await policies.add_policy(house, mara, policy, on=True, now=world.now)
    await sorting.set_view(
        house, mara, name="Money", shared=False, query={"tag": [str(slip), str(good)], "person_tag": str(slip)}
    )
    await tags.merge_tag(house, mara, slip, into=good, now=world.now)
    while await tags.merge_on(house, world.workspace_id, world.now):
        pass
    assert sorted(await rows(world, move="our_move", tag=[good])) == sorted(ids)
    assert await rows(world, move="our_move", tag=[slip]) == []
    assert await rows(world, move="our_move", person_tag=[good]) == [ids[0]]
    told = await by_name(world)
    assert told["refnud"]["merged_into"] == good
    assert (told["refnud"]["conversations"], told["refnud"]["people"], told["refnud"]["named_by"]) == (0, 0, [])
    assert (told["Refund"]["conversations"], told["Refund"]["people"]) == (4, 1)
    assert told["Refund"]["named_by"] == ["rule “Money”", "policy “Money”"]
    changed = (await rules.list_rules(house, mara, world.now))["rules"][0]
    assert changed["body"]["then"][0]["tags"] == [good]
    assert changed["body"]["when"]["parts"][0]["tags"] == [good]
    assert changed["switched_on"]
    view = (await sorting.list_views(house, mara))[0]
    assert view["query"] == {"tag": [str(good)], "person_tag": str(good)}
    # Whoever writes the old name means the other; and what was done before can be taken back as ever.
    fresh = await world.hear("hi", handle="z")
    await put_on(world, fresh, "REFNUD")
    assert (await world.row(fresh))["tags"] == [good]
    await acts.undo(house, mara, ids[0], seq=seqs[0], now=world.now)
    assert (await world.row(ids[0]))["tags"] == []
    assert await find_differences(house, world.workspace_id, world.now) == {}
    with pytest.raises(Invalid, match="was merged into Refund"):
        await tags.set_tag(house, mara, slip, name="refnud", heading="", retired=False, now=world.now)
    # One that becomes a third takes what was merged into it along.
    await put_on(world, fresh, "Money back")
    third = (await by_name(world))["Money back"]["id"]
    await tags.merge_tag(house, mara, good, into=third, now=world.now)
    assert {t["merged_into"] for n, t in (await by_name(world)).items() if n != "Money back"} == {third}


async def test_reports_count_what_ended_before_under_what_its_tag_has_become(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    ids = [await world.hear("hi", handle=f"h{n}") for n in range(3)]
    for id, names in zip(ids, (["refnud"], ["Refund"], ["refnud", "Refund"]), strict=True):
        for name in names:
            await put_on(world, id, name)
        await acts.settle(house, mara, id, how=SettledAs.NO_REPLY_NEEDED, now=world.after(minutes=5))
    slip, good = [(await by_name(world))[name]["id"] for name in ("refnud", "Refund")]

    async def count(tag: int) -> int:
        ask = Ask(period=Named.DAYS_7, filters={"tag": [tag]})
        figures = (await reports.get_report(house, mara, ask, world.after(hours=1)))["figures"]
        return int(next(f for f in figures if f["name"] == "without_reply")["value"])

    assert (await count(slip), await count(good)) == (2, 2)
    await tags.merge_tag(house, mara, slip, into=good, now=world.after(minutes=10))
    assert (await count(slip), await count(good)) == (3, 3)
    assert await find_differences(house, world.workspace_id, world.now) == {}


async def test_merging_asks_who_may_and_leaves_out_no_one(world: World) -> None:
    house, mara, ilse, noor = (world.house, *(world.scopes[who] for who in ("mara", "ilse", "noor")))
    a = await world.hear("hi")
    await put_on(world, a, "staff")
    await put_on(world, a, "colleague")
    staff, other = [(await by_name(world))[name]["id"] for name in ("staff", "colleague")]
    body = RuleBody(name="Ours", when=Conditions(parts=(PersonHasTag(tags=(staff,)),)), then=(AddTags(tags=(other,)),))
    id = await rules.add_rule(house, mara, body, on=True, now=world.now)
    with pytest.raises(NotAllowed):
        await tags.merge_tag(house, ilse, staff, into=other, now=world.now)
    await rules.remove_rule(house, mara, id, world.now)
    with pytest.raises(Invalid, match="Say which other tag"):
        await tags.merge_tag(house, mara, staff, into=staff, now=world.now)
    post = (await world.row(a))["post_id"]
    drawn = DrawRules(name="Win a year", deadline=world.after(hours=20), staff=(staff,))
    await draws.announce(house, noor, post, drawn, world.now)
    with pytest.raises(Invalid, match="leaves out people with this tag"):
        await tags.merge_tag(house, mara, staff, into=other, now=world.now)
    await tags.set_tag(house, mara, other, name="colleague", heading="", retired=True, now=world.now)
    with pytest.raises(Invalid, match="is retired"):
        await tags.merge_tag(house, mara, staff, into=other, now=world.now)


async def test_a_team_is_made_renamed_and_filled(world: World) -> None:
    house, noor, ilse, ana = (world.house, *(world.scopes[who] for who in ("noor", "ilse", "ana")))
    id = await team.set_team(house, noor, None, name=" Night  desk", members=[ilse.member_id])
    with pytest.raises(Invalid, match="There is a team called night desk already"):
        await team.set_team(house, noor, None, name="night desk", members=[])
    with pytest.raises(Invalid, match="does not work here"):
        await team.set_team(house, noor, id, name="Night desk", members=[99_999])
    with pytest.raises(NotFound):
        await team.set_team(house, noor, id + 99, name="Else", members=[])
    with pytest.raises(NotAllowed):
        await team.set_team(house, ilse, id, name="Mine", members=[])
    await team.set_team(house, noor, id, name="Late desk", members=[ana.member_id])
    made = (await sorting.get_directory(house, noor))["teams"]
    assert [(t["id"], t["name"], t["members"]) for t in made] == [(id, "Late desk", [ana.member_id])]


async def test_a_tag_that_was_merged_is_another_on_a_person_too(world: World) -> None:
    house, mara = world.house, world.scopes["mara"]
    a = await world.hear("hi", handle="a")
    person = (await world.row(a))["person_id"]
    for name in ("vip", "Patron"):
        await profiles.set_tag(house, mara, person, name=name, on=True)
    vip, patron = [(await by_name(world))[name]["id"] for name in ("vip", "Patron")]
    await tags.merge_tag(house, mara, vip, into=patron, now=world.now)
    assert await tags.merge_on(house, world.workspace_id, world.now) == 1
    told = await by_name(world)
    assert (told["vip"]["people"], told["Patron"]["people"]) == (0, 1)
