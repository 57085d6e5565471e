"""Loads the demo's three weeks by the same functions that live traffic and members use.

People say things on the stand-in networks, its clock set back; what they say is read by the adapters and
taken in by services.ingest; members act through services; replies are delivered through the adapters.
"""

import asyncio
import random
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from functools import partial
from typing import Any
from zoneinfo import ZoneInfo

import httpx

from demo import world
from demo.world import Theme
from sorta.core.moves import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.permissions import Role
from sorta.core.targets import Priority
from sorta.main import make_house
from sorta.services import accounts, acts, answers, delivery, desk, ingest, organisation
from sorta.services.house import House, Scope
from sorta.settings import Settings
from sorta.store import trail
from sorta.store.accounts import Account

ZONE = ZoneInfo("Europe/Copenhagen")
SETTLED_CONVERSATIONS = 400
OPEN_CONVERSATIONS = 66
Step = Callable[[datetime], Awaitable[None]]


@dataclass
class Story:
    """One conversation as it happens."""

    account: Account
    theme: Theme
    actor: dict[str, Any]
    kind: str
    parent: str | None = None
    last_thing: str | None = None
    conversation: int | None = None


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
    plan: list[tuple[datetime, int, Step]] = field(default_factory=list)

    async def control(self, path: str, **body: Any) -> dict[str, Any]:
        """Tell the stand-in networks something."""
        answer = await self.outside.post(f"/control/{path}", json=body)
        if answer.is_error:
            raise RuntimeError(f"{path}: {answer.text}")
        told: dict[str, Any] = answer.json()
        return told

    def at(self, when: datetime, step: Step) -> None:
        """Plan a step; steps are taken in the order of time."""
        self.plan.append((when, len(self.plan), step))

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
                    role=role,
                    zone=ZONE,
                    csrf="",
                )
            for network, handle, title in pages:
                await self.add_page(workspace_id, network, handle, title)

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
        self.pages[network, handle] = await ingest.get_account(self.house, workspace_id, account_id)

    async def listen(self) -> None:
        """From now on the networks tell Sorta by webhook."""
        for account in self.pages.values():
            url = f"{self.sorta_address}/hooks/{account.workspace_id}/{account.id}"
            await self.control("hook", page=account.external_id, url=url, secret=account.hook_secret)

    # -- steps -----------------------------------------------------------------------------------------
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
        )
        self.posts[activity["object"]["id"]] = (page, network, title)
        await self.take(account, activity, when)

    async def take(self, account: Account, activity: dict[str, Any], when: datetime) -> None:
        seen = ingest.read_activity(self.house, account, activity)
        await ingest.take_in(self.house, account, [seen], when)

    async def say(self, story: Story, text: str, when: datetime) -> None:
        """Somebody outside says something, and it comes in."""
        kind = story.kind if story.last_thing is None or story.kind == "private" else "reply"
        activity = await self.control(
            "say",
            network=story.account.network,
            kind=kind,
            text=text,
            page=story.account.handle,
            to=story.account.handle if kind == "private" else None,
            parent=story.last_thing if kind == "reply" else story.parent,
            tell=False,
            **story.actor,
        )
        story.last_thing = activity["object"]["id"]
        await self.take(story.account, activity, when)
        async with self.house.db.transact(story.account.workspace_id) as conn:
            known = await trail.get_message_by_external_id(
                conn, story.account.workspace_id, story.account.id, str(story.last_thing)
            )
        story.conversation = known.conversation_id if known else None

    async def answer(self, story: Story, scope: Scope, text: str, settle: bool, when: datetime) -> None:
        """A member answers; the worker's function delivers it eleven seconds later."""
        assert story.conversation is not None
        sheet = await desk.get_sheet(self.house, scope, story.conversation, when)
        row = sheet["conversation"]
        public = bool(row["public"])
        mode = sheet["modes"][0 if public else 1]
        if mode["obstacle"]:
            return
        await answers.reply(
            self.house,
            scope,
            story.conversation,
            public=public,
            text=text,
            seen_seq=row["seq"],
            settle=settle,
            now=when,
        )
        later = when + self.house.undo_for + timedelta(seconds=1)
        await self.control("settings", clock=later.isoformat())
        await delivery.deliver_due(self.house, scope.workspace_id, later)

    # -- stories ---------------------------------------------------------------------------------------
    def make_actor(self, network: str, theme: Theme) -> dict[str, Any]:
        if theme is world.TROLL:
            return {"handle": "brine_and_dine", "name": "Brine & Dine", "reach": 4}
        if theme is world.PRESS:
            return {"handle": "t.aldercott", "name": "Thea Aldercott", "reach": 71}
        reach = min(99, int(self.dice.paretovariate(1.1) * 6))
        if self.dice.random() < 0.3 and network == "quillet":
            handle = self.dice.choice(world.HANDLES)
            return {"handle": handle, "name": handle, "reach": reach}
        first, last = self.dice.choice(world.FIRST), self.dice.choice(world.LAST)
        return {"handle": f"{first}.{last}".lower(), "name": f"{first} {last}", "reach": reach}

    def make_story(self, theme: Theme, when: datetime, page: str) -> Story:
        networks = (
            ["commonfold", "hushline"] if page == "mossgate" else ["commonfold", "commonfold", "quillet", "hushline"]
        )
        network = self.dice.choice(networks)
        if theme in (world.OCTOPUS, world.FRIENDS, world.RAY):
            network = "commonfold"
        if theme in (world.PRESS, world.REFUND):
            network = self.dice.choice(["hushline", "commonfold"]) if theme is world.REFUND else "hushline"
        account = self.pages[network, page]
        actor = self.make_actor(network, theme)
        if network == "hushline" or (theme is world.REFUND and self.dice.random() < 0.7):
            return Story(account, theme, actor, "private")
        if network == "quillet":
            return Story(account, theme, actor, "mention")
        if theme is world.SPAM or self.dice.random() < 0.12:
            return Story(account, theme, actor, "visitor_post")
        return Story(account, theme, actor, "comment")

    def find_parent(self, story: Story) -> str:
        mine = [
            (id, title)
            for id, (page, network, title) in self.posts.items()
            if (network, page) == (story.account.network, story.account.handle)
        ]
        fitting = [id for id, title in mine if title in story.theme.posts]
        return fitting[-1] if fitting else self.dice.choice([id for id, _ in mine[-3:]])

    async def begin(self, story: Story, text: str, when: datetime) -> None:
        if story.kind == "comment":
            story.parent = self.find_parent(story)
        await self.say(story, text, when)

    def tell_settled(self, theme: Theme, begins: datetime, page: str) -> None:
        """A conversation that came, was sorted, answered and settled."""
        story = self.make_story(theme, begins, page)
        workspace_id = story.account.workspace_id
        scope = self.scopes[
            workspace_id, self.dice.choice(["IB", "IB", "TN", "TN", "MO", "SW" if theme is world.RAY else "MO"])
        ]
        opening = self.dice.choice(theme.openings)
        self.at(begins, lambda at: self.begin(story, opening, at))
        when = begins + timedelta(minutes=self.dice.lognormvariate(3.2, 0.9) + 1)
        if self.dice.random() < 0.75:
            self.at(
                when,
                lambda at: self.act(
                    story, lambda id: acts.assign(self.house, scope, id, owner_id=scope.member_id, note=None, now=at)
                ),
            )
        if theme.priority != 1 and self.dice.random() < 0.9:
            when += timedelta(seconds=self.dice.randint(5, 40))
            self.at(
                when,
                lambda at: self.act(
                    story, lambda id: acts.prioritise(self.house, scope, id, priority=Priority(theme.priority), now=at)
                ),
            )
        if theme.note and self.dice.random() < 0.4:
            note = self.dice.choice(theme.note)
            when += timedelta(minutes=self.dice.randint(1, 5))
            self.at(
                when, lambda at: self.act(story, lambda id: acts.add_note(self.house, scope, id, text=note, now=at))
            )
        rounds = (
            0
            if not theme.answers or self.dice.random() < (0.7 if theme.settle != "answered" else 0.05)
            else 1 + (self.dice.random() < 0.6)
        )
        for turn in range(rounds):
            reply = self.dice.choice(theme.answers)
            last = turn == rounds - 1
            settle = last and self.dice.random() < 0.8
            when += timedelta(minutes=self.dice.lognormvariate(2.6, 0.8) + 1)
            self.at(when, partial(self.answer, story, scope, reply, settle))
            if theme.follow and (not last or self.dice.random() < 0.55):
                text = self.dice.choice(theme.follow)
                when += timedelta(minutes=self.dice.lognormvariate(3, 1) + 2)
                self.at(when, partial(self.say, story, text))
        when += timedelta(minutes=self.dice.randint(2, 90))
        how = SettledAs(
            theme.settle
            if rounds == 0 and theme.settle != "answered"
            else "no_reply_needed"
            if rounds == 0
            else "answered"
        )
        self.at(
            min(when, self.now - timedelta(minutes=30)),
            lambda at: self.act(story, lambda id: acts.settle(self.house, scope, id, how=how, now=at)),
        )

    def tell_open(self, theme: Theme, begins: datetime, page: str, state: str) -> None:
        """A conversation that waits at the demo's start."""
        story = self.make_story(theme, begins, page)
        workspace_id = story.account.workspace_id
        scope = self.scopes[workspace_id, self.dice.choice(["IB", "TN", "MO", "SW"])]
        lead = self.scopes[workspace_id, "MO"]
        opening = self.dice.choice(theme.openings)
        self.at(begins, lambda at: self.begin(story, opening, at))
        if state == "unsorted":
            if self.dice.random() < 0.2 and theme.follow:
                text = self.dice.choice(theme.follow)
                self.at(begins + timedelta(minutes=3), lambda at: self.say(story, text, at))
            return
        when = begins + timedelta(minutes=self.dice.randint(1, 6))
        owner = scope.member_id if self.dice.random() < 0.7 else None
        self.at(
            when,
            lambda at: self.act(story, lambda id: acts.assign(self.house, lead, id, owner_id=owner, note=None, now=at)),
        )
        if theme.priority != 1:
            self.at(
                when + timedelta(seconds=20),
                lambda at: self.act(
                    story, lambda id: acts.prioritise(self.house, lead, id, priority=Priority(theme.priority), now=at)
                ),
            )
        if theme.note and self.dice.random() < 0.6:
            note = self.dice.choice(theme.note)
            self.at(
                when + timedelta(minutes=2),
                lambda at: self.act(story, lambda id: acts.add_note(self.house, scope, id, text=note, now=at)),
            )
        if state == "parked":
            choice = self.dice.choice(list(ParkFor))
            self.at(
                when + timedelta(minutes=3),
                lambda at: self.act(
                    story, lambda id: acts.park(self.house, lead, id, choice=choice, until=None, now=at)
                ),
            )
        if state in ("their_move", "again") and theme.answers:
            reply = self.dice.choice(theme.answers)
            self.at(when + timedelta(minutes=4), lambda at: self.answer(story, scope, reply, False, at))
        if state == "again" and theme.follow:
            text = self.dice.choice(theme.follow)
            self.at(when + timedelta(minutes=9), lambda at: self.say(story, text, at))

    async def act(self, story: Story, do: Callable[[int], Awaitable[Any]]) -> None:
        if story.conversation is not None:
            await do(story.conversation)

    # -- all of it -------------------------------------------------------------------------------------
    def plan_history(self) -> None:
        for page, network, days, title, text in world.POSTS:
            when = self.now - timedelta(days=days)
            self.at(when, partial(self.publish, page, network, title, text))
        first = self.now - timedelta(days=20)
        for _ in range(SETTLED_CONVERSATIONS):
            page = "mossgate" if self.dice.random() < 0.15 else "brinewick"
            when = first + (self.now - timedelta(hours=36) - first) * self.dice.random()
            local = when.astimezone(ZONE).replace(hour=min(22, max(6, int(self.dice.gauss(13.5, 4)))))
            self.tell_settled(self.pick(page), max(first, min(local, self.now - timedelta(hours=30))), page)
        press = self.now - timedelta(hours=2, minutes=20)
        self.tell_open(world.PRESS, press, "brinewick", "our_move")
        states = ["unsorted"] * 20 + ["our_move"] * 18 + ["again"] * 10 + ["their_move"] * 10 + ["parked"] * 6
        for n in range(OPEN_CONVERSATIONS):
            page = "mossgate" if n % 8 == 7 else "brinewick"
            theme = self.pick(page)
            while states[n % len(states)] != "unsorted" and theme.settle == "junk":
                theme = self.pick(page)
            hours = self.dice.uniform(0.1, 2.4) if theme.priority >= 2 else self.dice.uniform(0.2, 9.5)
            state = states[n % len(states)]
            if state in ("parked", "their_move"):
                hours = self.dice.uniform(3, 26)
            self.tell_open(theme, self.now - timedelta(hours=hours), page, state)

    def pick(self, page: str) -> Theme:
        if page == "mossgate":
            return self.dice.choice([world.GARDEN, world.GARDEN, world.PASS, world.PRAISE])
        return self.dice.choices(world.AQUARIUM_THEMES, [t.weight for t in world.AQUARIUM_THEMES])[0]

    def make_script(self) -> list[dict[str, Any]]:
        """What goes on happening on the networks while the demo runs."""
        lines = []
        for _ in range(160):
            page = "mossgate" if self.dice.random() < 0.1 else "brinewick"
            story = self.make_story(theme := self.pick(page), self.now, page)
            lines.append(
                {
                    "network": story.account.network,
                    "page": page,
                    "kind": story.kind,
                    "text": self.dice.choice(theme.openings),
                    **story.actor,
                }
            )
        return lines

    async def run(self) -> None:
        await self.add_organisation()
        self.plan_history()
        for when, _, step in sorted(self.plan, key=lambda entry: entry[:2]):
            if when <= self.now:
                await self.control("settings", clock=when.isoformat())
                await step(when)
        await self.control("settings", clock=None, script=self.make_script(), pace="calm")
        for account in self.pages.values():
            await ingest.backfill(self.house, account.workspace_id, account.id, self.now)
        await self.listen()


async def load(settings: Settings, outside_address: str, *, seed: int = 8) -> None:
    """Load the demo into an empty, migrated database and a fresh Outside."""
    house = make_house(settings)
    await house.open()
    try:
        async with httpx.AsyncClient(base_url=outside_address, timeout=30) as outside:
            loader = Loader(
                house,
                outside,
                f"http://127.0.0.1:{settings.port}",
                datetime.now(UTC),
                random.Random(seed),
                settings.demo_password or "",
            )
            await loader.run()
    finally:
        await house.close()


if __name__ == "__main__":
    import sys

    asyncio.run(load(Settings(), sys.argv[1]))
