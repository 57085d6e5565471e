"""Nothing goes out without the consent that its very words need: policies, authors, editors, demotions and absences by chance.

The judge of what went out is written from docs/trade.md 8, and knows nothing of the code: it keeps who consented to which words, and
who might at that moment; then it counts.
"""

import os
import random
from contextlib import suppress
from dataclasses import dataclass, field
from typing import Any

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import NotAllowed, SortaError
from sorta.core.permissions import STARTING, Permission, Role
from sorta.services import acts, approvals, delivery, links, organisation, policies, team
from tests.services.test_acts import reply
from tests.world import World

pytestmark = pytest.mark.anyio
MEMBERS = ("mara", "noor", "ilse", "ana")
WORDS = ("refund", "sorry", "free")
TEXTS = ["Hello", "You get a refund", "So sorry", "sorry, here is a free ticket and a refund", "Come for free", "See {link:terms}"]  # fmt: skip
LINKS = ("https://brinewick.example/terms", "https://brinewick.example/refund-in-full")


@dataclass
class Judge:
    """What members have consented to, as anybody in the room would have noted it down."""

    world: World
    roles: dict[str, Role]
    policies: list[tuple[PolicyWhen, frozenset[Role], int]] = field(default_factory=list)
    consents: dict[int, list[tuple[str, str, str]]] = field(default_factory=dict)

    def may_approve(self, name: str) -> bool:
        return Permission.APPROVE in STARTING[self.roles[name]].grants

    def list_missing(self, proposal: int, author: str, text: str, link: str) -> list[str]:
        """The policies whose consent the words that went out don't have."""
        given = {
            n
            for n, said, led in self.consents.get(proposal, [])
            if said == text and (led == link or "{link" not in text)
        }
        missing = []
        for when, roles, count in self.policies:
            if when.words and not any(word in text for word in when.words):
                continue
            able = {n for n in given if n != author and self.roles[n] in roles and self.may_approve(n)}
            if len(able) < count:
                missing.append(f"{when.words or 'any words'} by {count} of {sorted(roles)}: {sorted(able)}")
        if Permission.REPLY_WITHOUT_APPROVAL not in STARTING[self.roles[author]].grants and not {
            n for n in given if n != author and self.may_approve(n)
        }:
            missing.append("a role's own")
        return missing


@pytest.mark.parametrize("seed", range(int(os.environ.get("SORTA_SEEDS", "8"))))
async def test_nothing_goes_out_without_the_consent_its_very_words_need(world: World, seed: int) -> None:
    chance = random.Random(seed)
    judge = Judge(world, {"mara": Role.LEAD, "noor": Role.OWNER, "ilse": Role.RESPONDER, "ana": Role.TRAINEE})
    await links.set_kept(world.house, world.scopes["noor"], "terms", LINKS[0], world.now)
    link = LINKS[0]
    for n in range(chance.randint(1, 3)):
        when = PolicyWhen(words=chance.choice([(), *((w,) for w in WORDS), WORDS[:2]]))
        roles, count = (
            frozenset(chance.sample([Role.LEAD, Role.OWNER, Role.RESPONDER], chance.randint(1, 3))),
            chance.choice([1, 1, 2]),
        )
        body = PolicyBody(name=f"Policy {n}", when=when, roles=tuple(sorted(roles)), count=count)
        await policies.add_policy(world.house, world.scopes["noor"], body, on=True, now=world.now)
        judge.policies.append((when, roles, count))
    waiting: dict[int, dict[str, Any]] = {}
    out: list[str] = []

    async def act_as(name: str) -> Any:
        scope = world.scopes[name]
        return scope.__class__(**{**scope.__dict__, "role": STARTING[judge.roles[name]]})

    for step in range(40):
        now = world.after(minutes=step)
        what = chance.choice(
            [
                "propose",
                "propose",
                "approve",
                "approve",
                "approve",
                "edit",
                "change",
                "demote",
                "away",
                "link",
                "say",
                "reply",
            ]
        )
        name = chance.choice(MEMBERS)
        scope = await act_as(name)
        with suppress(SortaError):
            if what == "propose" or not waiting:
                id = await world.hear("Hm", handle=f"p{seed}x{step}", at=now)
                text = chance.choice(TEXTS)
                row = await world.row(id)
                given: dict[str, Any] = {
                    "public": True,
                    "text": text,
                    "seen_seq": row["seq"],
                    "settle": False,
                    "now": now,
                }
                proposal = await approvals.propose(world.house, scope, id, **given)
                waiting[proposal] = {"conversation": id, "author": name, "text": text}
            elif what in ("approve", "edit"):
                proposal = chance.choice(sorted(waiting))
                one = waiting[proposal]
                text = chance.choice(TEXTS) if what == "edit" else None
                seen = (await world.row(one["conversation"]))["seq"]
                sent = await approvals.approve(world.house, scope, proposal, seen_seq=seen, text=text, now=now)
                one["text"] = text or one["text"]
                assert judge.may_approve(name), "whoever may not approve now did"
                judge.consents.setdefault(proposal, []).append((name, one["text"], link))
                if sent is not None:
                    assert judge.list_missing(proposal, one["author"], one["text"], link) == []
                    out.append(one["text"].replace("{link:terms}", "http"))
                    del waiting[proposal]
            elif what == "change":
                proposal = chance.choice(sorted(waiting))
                one = waiting[proposal]
                text = chance.choice(TEXTS)
                seen = (await world.row(one["conversation"]))["seq"]
                await approvals.change(
                    world.house, await act_as(one["author"]), proposal, text=text, seen_seq=seen, now=now
                )
                one["text"] = text
            elif what == "demote":
                judge.roles[name] = chance.choice([Role.LEAD, Role.OWNER, Role.RESPONDER, Role.TRAINEE, Role.OBSERVER])
                judge.roles["noor"] = Role.OWNER
                for who, role in judge.roles.items():
                    await organisation.set_role(world.house, world.workspace_id, world.scopes[who].member_id, role)
            elif what == "away":
                given = {
                    "capacity": 9,
                    "languages": [],
                    "away_from": now,
                    "away_until": None,
                    "away_reason": "",
                    "shift": None,
                }
                await team.set_availability(world.house, scope, scope.member_id, **given, now=now)
                await approvals.ask_next(world.house, world.workspace_id, now)
            elif what == "link":
                link = chance.choice(LINKS)
                await links.set_kept(world.house, world.scopes["noor"], "terms", link, now)
            elif what == "say" and waiting:
                one = waiting[chance.choice(sorted(waiting))]
                await acts.add_note(world.house, scope, one["conversation"], text="Hm", now=now)
            elif what == "reply":
                id = await world.hear("Hm", handle=f"q{seed}x{step}", at=now)
                text = chance.choice(TEXTS)
                await reply(world, id, text, who=name, now=now)
                # Sent without asking: then nobody's consent may have been needed.
                judged = Judge(world, judge.roles, judge.policies)
                assert judged.list_missing(0, name, text, link) == []
                out.append(text.replace("{link:terms}", "http"))
    for _ in range(60):
        if not await delivery.deliver_due(world.house, world.workspace_id, world.after(hours=2)):
            break
    outside = [t["content"] for t in await world.things() if "clientKey" in t]
    assert sorted(w.split("http")[0] for w in outside) == sorted(w.split("http")[0] for w in out), (
        "each once, and nothing else"
    )


async def test_consent_given_to_a_link_that_leads_elsewhere_since_is_void(world: World) -> None:
    noor, mara = world.scopes["noor"], world.scopes["mara"]
    await links.set_kept(world.house, noor, "terms", LINKS[0], world.now)
    body = PolicyBody(name="Two", when=PolicyWhen(), roles=("owner", "lead"), count=2)
    await policies.add_policy(world.house, noor, body, on=True, now=world.now)
    id = await world.hear("Hm")
    seen = (await world.row(id))["seq"]
    proposal = await approvals.propose(world.house, world.scopes["ilse"], id, public=True, text="See {link:terms}", seen_seq=seen, settle=False, now=world.now)  # fmt: skip

    async def consent(scope: Any) -> int | None:
        now = (await world.row(id))["seq"]
        return await approvals.approve(world.house, scope, proposal, seen_seq=now, text=None, now=world.now)

    assert await consent(noor) is None
    await links.set_kept(world.house, noor, "terms", LINKS[1], world.now)
    assert await consent(mara) is None, "the first consent was to another place"
    assert (await approvals.list_approvals(world.house, noor))[0]["mine"] is True
    assert await consent(noor) is not None


async def test_an_author_who_may_not_answer_any_more_sends_nothing(world: World) -> None:
    noor = world.scopes["noor"]
    await policies.add_policy(world.house, noor, PolicyBody(name="One", when=PolicyWhen(), roles=("owner",)), on=True, now=world.now)  # fmt: skip
    id = await world.hear("Hm")
    seen = (await world.row(id))["seq"]
    proposal = await approvals.propose(world.house, world.scopes["ilse"], id, public=True, text="Yes", seen_seq=seen, settle=False, now=world.now)  # fmt: skip
    await organisation.set_role(world.house, world.workspace_id, world.scopes["ilse"].member_id, Role.OBSERVER)
    with pytest.raises(NotAllowed, match="may not answer here any more"):
        await approvals.approve(world.house, noor, proposal, seen_seq=(await world.row(id))["seq"], text=None, now=world.now)  # fmt: skip
