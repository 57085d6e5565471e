"""Loads the demo's four weeks by the same functions that live traffic and members use.

People say things on the stand-in networks, its clock set back; what they say is read by the adapters and
taken in by services.ingest; members act through services; replies are delivered through the adapters.
What happens is planned in demo.stories; here are the means.
"""

import asyncio
import contextlib
import random
import uuid
from collections.abc import Awaitable, Callable
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
from sorta.core.permissions import STARTING, HeldRole, Permission, Role
from sorta.core.ports import Delivered, MessageSeen, Moderation, Refused
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
)
from sorta.services.house import House, Scope
from sorta.store import outbox, trail
from sorta.store.accounts import Account

ZONE = ZoneInfo("Europe/Copenhagen")
Step = Callable[[datetime], Awaitable[None]]
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

    @property
    def workspace_id(self) -> int:
        return self.account.workspace_id


def sign(secret: str, body: str) -> dict[str, str]:
    """The headers of a delivery by the Standard Webhooks scheme, signed now."""
    now, id = datetime.now(UTC), f"evt_{uuid.uuid4().hex}"
    return {
        "webhook-id": id,
        "webhook-timestamp": str(int(now.timestamp())),
        "webhook-signature": Webhook(secret).sign(id, now, body),
    }


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
    posts: dict[str, tuple[str, str, str]] = field(default_factory=dict)
    teams: dict[tuple[int, str], int] = field(default_factory=dict)
    plan: dict[str, list[tuple[datetime, int, Step]]] = field(default_factory=dict)
    #: Saved replies by workspace and by the answer that was made from them.
    saved: dict[tuple[int, str], int] = field(default_factory=dict)
    known_tags: set[tuple[int, str]] = field(default_factory=set)

    async def control(self, path: str, **body: Any) -> dict[str, Any]:
        """Tell the stand-in networks something."""
        answer = await self.outside.post(f"/control/{path}", json=body)
        if answer.is_error:
            raise RuntimeError(f"{path}: {answer.text}")
        told: dict[str, Any] = answer.json()
        return told

    def at(self, when: datetime, network: str, step: Step) -> None:
        """Plan a step; each network's steps are taken in the order of time."""
        steps = self.plan.setdefault(network, [])
        steps.append((when, len(steps), step))

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
        self.posts[activity["object"]["id"]] = (page, network, title)
        await self.take(account, activity, when)

    async def take(self, account: Account, activity: dict[str, Any], when: datetime) -> trail.KnownMessage | None:
        """It comes in, the rules are read on it, and what they send out leaves after the seconds in which it could have
        been stopped; the message it became, if it is one of theirs."""
        seen = intake.read_activity(self.house, account, activity)
        await ingest.take_in(self.house, account, [seen], when)
        if not isinstance(seen, MessageSeen) or seen.by_us:
            return None
        workspace_id = account.workspace_id
        async with self.house.db.transact(workspace_id) as conn:
            known = await trail.get_message_by_external_id(conn, workspace_id, account.id, seen.external_id)
            waiting = known and await outbox.list_next_of(conn, workspace_id, known.conversation_id)
        if known is not None and waiting:
            later = when + self.house.undo_for + timedelta(seconds=1)
            await self.control(f"clock/{account.network}", at=later.isoformat())
            await self.deliver_all(workspace_id, known.conversation_id, later)
        return known

    async def deliver_all(self, workspace_id: int, conversation_id: int, when: datetime) -> None:
        """Everything of one conversation that may leave now, in its order."""
        while True:
            async with self.house.db.transact(workspace_id) as conn:
                waiting = await outbox.list_next_of(conn, workspace_id, conversation_id)
            done = [await delivery.deliver(self.house, workspace_id, one["id"], when) for one in waiting]
            if not any(isinstance(outcome, Delivered | Refused) for outcome in done):
                return

    def find_parent(self, story: Story) -> str:
        """The post a comment goes under: the latest that fits the theme, else one that nothing else belongs under."""
        mine = [
            (id, title)
            for id, (page, network, title) in self.posts.items()
            if (network, page) == (story.account.network, story.account.handle)
        ]
        fitting = [id for id, title in mine if title in story.theme.posts]
        if fitting:
            return self.dice.choice(fitting[-2:]) if len(story.theme.posts) > 1 else fitting[-1]
        return self.dice.choice([id for id, title in mine if title not in OWN_MATTER][-3:])

    async def say(self, story: Story, text: str, when: datetime) -> None:
        """Somebody outside says something, and it comes in."""
        kind = story.kind
        if story.last_thing is not None and kind != "private":
            kind = "private" if kind == "form_entry" else "reply"
        if kind == "comment" and story.parent is None:
            story.parent = self.find_parent(story)
        activity = await self.control(
            "say",
            network=story.account.network,
            kind=kind,
            text=text,
            page=story.account.handle,
            to=story.account.handle if kind == "private" else None,
            parent=story.last_thing if kind == "reply" else story.parent,
            rating=story.rating,
            tell=False,
            clock=when.isoformat(),
            **story.actor,
        )
        story.last_thing = activity["object"]["id"]
        known = await self.take(story.account, activity, when)
        assert known is not None
        story.conversation, story.last_message = known.conversation_id, known.id

    async def like(self, story: Story, when: datetime) -> None:
        """Somebody likes the post the story hangs on."""
        if story.parent is None:
            story.parent = self.find_parent(story)
        activity = await self.control(
            "like", network=story.account.network, id=story.parent, clock=when.isoformat(), **story.actor
        )
        await self.take(story.account, activity, when)

    # -- steps of members ------------------------------------------------------------------------------
    async def deliver(self, story: Story, when: datetime) -> None:
        """What has been waiting for its ten seconds leaves."""
        assert story.conversation is not None
        later = when + self.house.undo_for + timedelta(seconds=1)
        await self.control(f"clock/{story.account.network}", at=later.isoformat())
        await self.deliver_all(story.workspace_id, story.conversation, later)

    async def answer(self, story: Story, scope: Scope, text: str, settle: bool, when: datetime) -> None:
        """A member answers; eleven seconds later it is delivered. Where the network allows none, nothing happens."""
        if story.conversation is None:
            return
        async with self.house.db.transact(story.workspace_id) as conn:
            row = await trail.get_conversation(conn, story.workspace_id, story.conversation)
        assert row is not None
        public, seq = bool(row["public"]), row["seq"]
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
            await self.deliver(story, when)

    async def moderate(self, story: Story, scope: Scope, what: Moderation, when: datetime) -> None:
        """A member likes, hides or blocks; it leaves at once."""
        if story.last_message is None:
            return
        # A rule may have done it by then.
        with contextlib.suppress(TooLate):
            await moderation.moderate(self.house, scope, story.last_message, what=what, now=when)
        await self.deliver(story, when)

    def do(self, when: datetime, story: Story, act: Callable[..., Awaitable[Any]], scope: Scope, **given: Any) -> None:
        """Plan an act of a member on a story's conversation."""

        async def step(at: datetime) -> None:
            if story.conversation is not None:
                await act(self.house, scope, story.conversation, now=at, **given)

        self.at(when, story.account.network, step)

    def tag(self, when: datetime, story: Story, scope: Scope, name: str, *, person: bool = False) -> None:
        """Plan a tag."""
        self.do(when, story, acts.tag_person if person else acts.tag, scope, name=name, on=True)

    def share_out(self) -> tuple[set[str], set[str]]:
        """The networks in two lots of about as many planned steps."""
        lots: tuple[set[str], set[str]] = (set(), set())
        sizes = [0, 0]
        for network, steps in sorted(self.plan.items(), key=lambda one: -len(one[1])):
            smaller = sizes.index(min(sizes))
            lots[smaller].add(network)
            sizes[smaller] += len(steps)
        return lots

    async def walk(self, networks: set[str]) -> None:
        """Take the planned steps that lie in the past, in order, the networks side by side."""

        async def walk_one(network: str) -> None:
            for when, _, step in sorted(self.plan[network], key=lambda entry: entry[:2]):
                if when <= self.now:
                    await step(when)
            await self.control(f"clock/{network}", at=None)

        await asyncio.gather(*(walk_one(network) for network in networks))
