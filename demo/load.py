"""Loads the demo's four weeks by the same functions that live traffic and members use.

People say things on the stand-in networks, its clock set back; what they say is read by the adapters and
taken in by services.ingest; members act through services; replies are delivered through the adapters.
What happens is planned in demo.stories; here are the means.
"""

import asyncio
import contextlib
import random
import uuid
from collections import deque
from collections.abc import Awaitable, Callable, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

import httpx
from standardwebhooks.webhooks import Webhook

from demo import world
from demo.themes import Theme
from sorta.core.answers import Extras
from sorta.core.errors import Impossible, TooLate
from sorta.core.facts import SettledAs
from sorta.core.permissions import STARTING, HeldRole, Permission, Role
from sorta.core.ports import Delivered, MessageSeen, Moderation, Refused, Seen
from sorta.services import (
    accounts,
    acts,
    answers,
    delivery,
    groups,
    ingest,
    intake,
    moderation,
    organisation,
    roles,
    sorting,
    tags,
)
from sorta.services.house import House, Scope
from sorta.services.trail import together, writing
from sorta.store import outbox, trail
from sorta.store.accounts import Account
from sorta.store.queue import Queue

ZONE = ZoneInfo("Europe/Copenhagen")
Step = Callable[[datetime], Awaitable[None]]
#: Steps of one network that lie no further apart are taken in rounds: of each person's the first, then of each the second.
SPAN = timedelta(days=9)
#: What is told or taken in at once.
AT_ONCE = 50
#: Posts under which only what is about them is said.
OWN_MATTER = frozenset({"Name the new octopus", "Meet the touch pool"})
#: Weekday to opening and closing hour; what members do in history falls into these.
OPEN = {0: (9, 17), 1: (9, 17), 2: (9, 17), 3: (9, 17), 4: (9, 17), 5: (10, 14)}


@dataclass
class Story:
    """One conversation as it happens."""

    account: Account
    theme: Theme
    actor: dict[str, Any]
    kind: str
    parent: str | None = None
    last_thing: str | None = None
    last_message: int | None = None
    conversation: int | None = None
    rating: int | None = None
    #: Whether the last answer was one that settles.
    settled: bool = False

    @property
    def workspace_id(self) -> int:
        return self.account.workspace_id

    @property
    def lane(self) -> str:
        """Whose steps follow each other: somebody's with a page may be of one conversation."""
        return f"{self.account.handle} {self.actor['handle']}"


@dataclass(frozen=True)
class Said:
    """Somebody outside says something, or likes the post the story hangs on (`text` is None)."""

    story: Story
    text: str | None


@dataclass(frozen=True)
class Done:
    """A member does something to the conversation; it is written here, whatever of it leaves later. `weight` is how long all that takes
    as parts of a short act's time."""

    story: Story
    do: Step
    weight: float = 1


@dataclass(frozen=True)
class Planned:
    """What is to happen; `lane` is within its network, and what has none is done before all else of its span."""

    when: datetime
    n: int
    lane: str | None
    step: Step | Said | Done


def sign(secret: str, body: str) -> dict[str, str]:
    """The headers of a delivery by the Standard Webhooks scheme, signed now."""
    now, id = datetime.now(UTC), f"evt_{uuid.uuid4().hex}"
    return {
        "webhook-id": id,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign(id, now, body),
    }


class NoJobs(Queue):
    """Where history is told: what is to leave leaves at once, and what stays behind the worker's clock picks up."""

    async def add_job(self, *_: Any, **__: Any) -> None:
        pass


def deal(due: Sequence[tuple[datetime, dict[str, Any]]]) -> list[list[tuple[datetime, dict[str, Any]]]]:
    """What waits to leave, in lots of which each holds of an account no more than may be under way."""
    lots: list[list[tuple[datetime, dict[str, Any]]]] = []
    before: dict[int, int] = {}
    for at, one in due:
        n = before.get(one["account_id"], 0)
        before[one["account_id"]] = n + 1
        lot = n // delivery.SLOTS_PER_ACCOUNT
        if lot == len(lots):
            lots.append([])
        lots[lot].append((at, one))
    return lots


@dataclass
class Loader:
    """Everything the loading needs while it runs."""

    house: House
    outside: httpx.AsyncClient
    sorta_address: str
    now: datetime
    dice: random.Random
    password: str
    pages: dict[tuple[str, str], Account] = field(default_factory=dict)
    scopes: dict[tuple[int, str], Scope] = field(default_factory=dict)
    #: Page, title and time of each post, by its name outside.
    posts: dict[str, tuple[Account, str, datetime]] = field(default_factory=dict)
    #: Where something may wait to leave, by workspace and conversation: what it answers outside, and by when it has left.
    leaving: dict[tuple[int, int], tuple[str, datetime]] = field(default_factory=dict)
    teams: dict[tuple[int, str], int] = field(default_factory=dict)
    plan: dict[str, list[Planned]] = field(default_factory=dict)
    #: Saved replies by workspace and by the answer that was made from them.
    saved: dict[tuple[int, str], int] = field(default_factory=dict)
    #: Tags that the plan puts on, by workspace; they are there before it begins.
    tags: set[tuple[int, str]] = field(default_factory=set)

    async def control(self, path: str, **body: Any) -> dict[str, Any]:
        """Tell the stand-in networks something."""
        answer = await self.outside.post(f"/control/{path}", json=body)
        if answer.is_error:
            raise RuntimeError(f"{path}: {answer.text}")
        told: dict[str, Any] = answer.json()
        return told

    def at(self, when: datetime, network: str, step: Step | Said | Done, lane: str | None = None) -> None:
        """Plan a step; the steps of one lane are taken in the order of time."""
        steps = self.plan.setdefault(network, [])
        steps.append(Planned(when, len(steps), lane, step))

    def at_work(self, when: datetime) -> datetime:
        """The same time, or some minutes into the next working hours."""
        local = when.astimezone(ZONE)
        while True:
            opens, closes = OPEN.get(local.weekday(), (24, 24))
            if opens <= local.hour < closes:
                return local
            if local.hour < opens < 24:
                return local.replace(hour=opens, minute=0) + timedelta(minutes=self.dice.expovariate(1 / 35))
            local = (local + timedelta(days=1)).replace(hour=0, minute=0)

    # -- who and what there is -------------------------------------------------------------------------
    async def add_organisation(self) -> None:
        trust = await organisation.add_organisation(self.house, "The Brinewick Trust")
        members = {}
        for member in world.MEMBERS:
            members[member.initials] = await organisation.add_member(
                self.house,
                trust,
                email=member.email,
                name=member.name,
                initials=member.initials,
                password=self.password,
            )
        for name, pages in world.WORKSPACES:
            workspace_id = await organisation.add_workspace(self.house, trust, name, ZONE.key)
            for member in world.MEMBERS:
                role = Role(member.role)
                await organisation.set_role(self.house, workspace_id, members[member.initials], role)
                self.scopes[workspace_id, member.initials] = Scope(
                    workspace_id=workspace_id,
                    member_id=members[member.initials],
                    name=member.name,
                    role=STARTING[role],
                    zone=ZONE,
                    csrf="",
                )
            await self.add_curator(workspace_id, members["SW"])
            for network, handle, title in pages:
                await self.add_page(workspace_id, network, handle, title)
            for team, who in world.TEAMS:
                id = await sorting.add_team(self.house, workspace_id, team, [members[i] for i in who])
                self.teams[workspace_id, team] = id
            mine = [a for a in self.pages.values() if a.workspace_id == workspace_id]
            for group, networks, looking_after in world.GROUPS:
                held = [a.id for a in mine if a.network in networks]
                await groups.make_group(self.house, workspace_id, group, held, [members[i] for i in looking_after])

    async def add_curator(self, workspace_id: int, member_id: int) -> None:
        """A role of the workspace's own: answers as a Responder does, and approves what a policy asks of them."""
        owner = self.scopes[workspace_id, "NH"]
        responder = STARTING[Role.RESPONDER].grants
        key = await roles.add_role(
            self.house, owner, name="Curator", permissions=sorted({*responder, Permission.APPROVE})
        )
        await roles.give_role(self.house, owner, member_id, key)
        curator = HeldRole(key=key, name="Curator", grants=frozenset({*responder, Permission.APPROVE}))
        self.scopes[workspace_id, "SW"] = replace(self.scopes[workspace_id, "SW"], role=curator)

    async def add_page(self, workspace_id: int, network: str, handle: str, title: str) -> None:
        secret = f"whsec_{self.dice.randbytes(24).hex()}"
        page = await self.control("actors", network=network, handle=handle, name=title, page=True)
        base = str(self.outside.base_url).rstrip("/")
        account_id = await accounts.add_account(
            self.house,
            workspace_id,
            {
                "network": network,
                "name": title,
                "handle": handle,
                "external_id": page["id"],
                "api_url": f"{base}/api/{network}",
                "token": page["token"],
                "hook_secret": secret,
            },
        )
        self.pages[network, handle] = await accounts.get_account(self.house, workspace_id, account_id)

    async def listen(self) -> None:
        """From now on the networks tell Sorta by webhook."""
        for account in self.pages.values():
            url = f"{self.sorta_address}/hooks/{account.workspace_id}/{account.id}"
            secret, *_ = accounts.list_hook_secrets(self.house, account, datetime.now(UTC))
            await self.control("hook", page=account.external_id, url=url, secret=secret)

    # -- steps outside ---------------------------------------------------------------------------------
    async def publish(self, page: str, network: str, title: str, text: str, when: datetime) -> None:
        account = self.pages[network, page]
        activity = await self.control(
            "say",
            network=network,
            handle=page,
            name=account.name,
            kind="post",
            page=page,
            title=title,
            text=text,
            tell=False,
            clock=when.isoformat(),
        )
        self.posts[activity["object"]["id"]] = (account, title, when)
        await ingest.take_in(self.house, account, [intake.read_activity(self.house, account, activity)], when)

    def find_parent(self, story: Story, when: datetime) -> str:
        """The post a comment goes under: the latest that fits the theme, else one that nothing else belongs under."""
        mine = [
            (id, title)
            for id, (account, title, published) in self.posts.items()
            if account is story.account and published <= when
        ]
        fitting = [id for id, title in mine if title in story.theme.posts]
        if fitting:
            return self.dice.choice(fitting[-2:]) if len(story.theme.posts) > 1 else fitting[-1]
        return self.dice.choice([id for id, title in mine if title not in OWN_MATTER][-3:])

    def describe(self, said: Said, when: datetime) -> dict[str, Any]:
        """What the stand-in is told of it."""
        story, kind = said.story, said.story.kind
        common = {"network": story.account.network, "clock": when.isoformat(), **story.actor}
        if story.last_thing is not None and kind != "private":
            kind = "private" if kind == "form_entry" else "reply"
        if story.parent is None and (kind == "comment" or said.text is None):
            story.parent = self.find_parent(story, when)
        if said.text is None:
            return {**common, "what": "like", "id": story.parent}
        return {
            **common,
            "what": "say",
            "kind": kind,
            "text": said.text,
            "page": story.account.handle,
            "to": story.account.handle if kind == "private" else None,
            "parent": story.last_thing if kind == "reply" else story.parent,
            "rating": story.rating,
            "tell": False,
        }

    async def hear(self, saids: Sequence[tuple[datetime, Said]]) -> None:
        """People outside say things, in the order of time; all of a page comes in at once, each as of its own time."""
        told = await self.control("happened", things=[self.describe(said, when) for when, said in saids])
        by_page: dict[int, list[tuple[datetime, Story, Seen]]] = {}
        for (when, said), activity in zip(saids, told["activities"], strict=True):
            account = said.story.account
            seen = intake.read_activity(self.house, account, activity)
            by_page.setdefault(account.id, []).append((when, said.story, seen))
        for came in by_page.values():
            account = came[0][1].account
            times = {seen.external_id: when for when, _, seen in came}
            await ingest.take_in(self.house, account, [seen for _, _, seen in came], came[-1][0], came=times)
            said_by = [(when, story, seen) for when, story, seen in came if isinstance(seen, MessageSeen)]
            async with self.house.db.transact(account.workspace_id) as tx:
                ids = [seen.external_id for _, _, seen in said_by]
                known = await trail.list_known(tx, account.id, ids)
            for when, story, seen in said_by:
                message = known[seen.external_id]
                story.last_thing, story.last_message = seen.external_id, message.id
                story.conversation = message.conversation_id
                # The rules may have sent something.
                self.note_leaving(story, when)

    def note_leaving(self, story: Story, when: datetime) -> None:
        """Something may wait in the conversation for the seconds in which it could be stopped."""
        assert story.conversation is not None
        assert story.last_thing is not None
        later = when + self.house.undo_for + timedelta(seconds=1)
        self.leaving[story.workspace_id, story.conversation] = (story.last_thing, later)

    async def let_out(self, network: str) -> None:
        """Whatever waits to leave does, in each conversation one after the other, each as of its own time."""
        mine = {conversation: waits for conversation, waits in self.leaving.items() if f"/{network}/" in waits[0]}
        for conversation in mine:
            del self.leaving[conversation]
        while mine:
            waiting: dict[int, list[tuple[datetime, dict[str, Any]]]] = {}
            for workspace_id in {workspace_id for workspace_id, _ in mine}:
                here = [id for where, id in mine if where == workspace_id]
                async with self.house.db.transact(workspace_id) as tx:
                    for id, one in (await outbox.list_next_of(tx, here)).items():
                        waiting.setdefault(workspace_id, []).append((mine[workspace_id, id][1], one))
            left = set()
            for workspace_id, due in waiting.items():
                clocks = {mine[workspace_id, one["conversation_id"]][0]: at.isoformat() for at, one in due}
                await self.control("clocks", clocks=clocks)
                for some in deal(sorted(due, key=lambda d: (d[0], d[1]["id"]))):
                    tried = await delivery.deliver_together(
                        self.house, workspace_id, [(at, one["id"]) for at, one in some]
                    )
                    for _, one in some:
                        if isinstance(tried.get(one["id"]), Delivered | Refused):
                            left.add((workspace_id, one["conversation_id"]))
            mine = {where: waits for where, waits in mine.items() if where in left}

    # -- steps of members ------------------------------------------------------------------------------
    async def answer(self, story: Story, scope: Scope, text: str, settle: bool, when: datetime) -> None:
        """A member answers; it leaves eleven seconds later. Where the network allows none, nothing happens."""
        if story.conversation is None:
            return
        async with writing(self.house, story.workspace_id, when) as ledger:
            conversation = await ledger.get(story.conversation)
            public, seq = bool(conversation.row["public"]), conversation.facts.seq
        with contextlib.suppress(Impossible):
            await answers.reply(
                self.house,
                scope,
                story.conversation,
                public=public,
                text=text,
                seen_seq=seq,
                settle=settle,
                now=when,
                extras=Extras(saved_reply=self.saved.get((story.workspace_id, text))),
            )
            story.settled = settle
            self.note_leaving(story, when)

    async def settle(self, story: Story, scope: Scope, how: SettledAs, when: datetime) -> None:
        """A member settles what no answer has settled."""
        if story.conversation is not None and not story.settled:
            await acts.settle(self.house, scope, story.conversation, how=how, now=when)

    async def moderate(self, story: Story, scope: Scope, what: Moderation, when: datetime) -> None:
        """A member likes, hides or blocks; it leaves at once."""
        if story.last_message is None:
            return
        # A rule may have done it by then.
        with contextlib.suppress(TooLate):
            await moderation.moderate(self.house, scope, story.last_message, what=what, now=when)
        self.note_leaving(story, when)

    def do(self, when: datetime, story: Story, act: Callable[..., Awaitable[Any]], scope: Scope, **given: Any) -> None:
        """Plan an act of a member on a story's conversation."""

        async def step(at: datetime) -> None:
            if story.conversation is not None:
                await act(self.house, scope, story.conversation, now=at, **given)

        self.at(when, story.account.network, Done(story, step), story.lane)

    def tag(self, when: datetime, story: Story, scope: Scope, name: str, *, person: bool = False) -> None:
        """Plan a tag."""
        self.tags.add((story.workspace_id, name))
        self.do(when, story, acts.tag_person if person else acts.tag, scope, name=name, on=True)

    async def make_tags(self) -> None:
        """Whatever tags are planned, before two who write together make one each."""
        for workspace_id, name in sorted(self.tags):
            await tags.get_tag(self.house, self.scopes[workspace_id, "MO"], name, make=True)

    def share_out(self) -> tuple[set[str], set[str]]:
        """The networks in two lots of about as much work."""
        lots: tuple[set[str], set[str]] = (set(), set())
        sizes = [0.0, 0.0]
        work = {
            network: sum(one.step.weight if isinstance(one.step, Done) else 1 for one in steps)
            for network, steps in self.plan.items()
        }
        for network in sorted(work, key=lambda one: -work[one]):
            smaller = sizes.index(min(sizes))
            lots[smaller].add(network)
            sizes[smaller] += work[network]
        return lots

    async def walk(self, networks: set[str]) -> None:
        """Take the planned steps that lie in the past, the networks side by side."""
        self.house = replace(self.house, queue=NoJobs(self.house.db.conninfo))
        await asyncio.gather(*(self.walk_one(network) for network in networks))

    async def walk_one(self, network: str) -> None:
        """A network's steps, span by span; within one in rounds: each lane's first, each lane's second."""
        waiting = deque(sorted((p for p in self.plan[network] if p.when <= self.now), key=lambda p: (p.when, p.n)))
        while waiting:
            until = waiting[0].when + SPAN
            lanes: dict[str, deque[Planned]] = {}
            while waiting and waiting[0].when < until:
                one = waiting.popleft()
                if one.lane is None:
                    assert not isinstance(one.step, Said | Done)
                    await one.step(one.when)
                else:
                    lanes.setdefault(one.lane, deque()).append(one)
            while lanes:
                await self.take_round(network, [lane.popleft() for lane in lanes.values()])
                lanes = {name: lane for name, lane in lanes.items() if lane}
        await self.control("clocks", clocks={network: None})

    async def take_round(self, network: str, steps: list[Planned]) -> None:
        """One step of each lane, what is said outside in one go; what it makes leave leaves."""
        steps.sort(key=lambda p: (p.when, p.n))
        saids = [(p.when, p.step) for p in steps if isinstance(p.step, Said)]
        for start in range(0, len(saids), AT_ONCE):
            await self.hear(saids[start : start + AT_ONCE])
        by_place: dict[int, list[tuple[datetime, Done]]] = {}
        for p in steps:
            if isinstance(p.step, Done):
                by_place.setdefault(p.step.story.workspace_id, []).append((p.when, p.step))
        for workspace_id, done in by_place.items():
            for start in range(0, len(done), AT_ONCE):
                some = done[start : start + AT_ONCE]
                known = {act.story.conversation for _, act in some if act.story.conversation is not None}
                async with together(self.house, workspace_id, steps[-1].when, known):
                    for when, act in some:
                        await act.do(when)
        for p in steps:
            if not isinstance(p.step, Said | Done):
                await p.step(p.when)
        await self.let_out(network)
