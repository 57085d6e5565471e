"""What most tests need: two workspaces, members, accounts, and the Outside speaking to the real adapters in memory."""

import functools
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from copy import copy
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import httpx
from fastapi import FastAPI

from outside.app import make_app as make_outside
from outside.state import State
from sorta.core.permissions import STARTING, Role
from sorta.networks.abilities import TABLE
from sorta.networks.case_desk import HttpCaseDesk
from sorta.networks.granting import Client, OAuthGrantor
from sorta.networks.outgoing import Outgoing
from sorta.networks.programs import HttpPrograms
from sorta.networks.registry import make_networks
from sorta.services import accounts, cases, ingest, intake, organisation
from sorta.services.accounts import make_ref
from sorta.services.house import House, Scope
from sorta.services.reader import LearnedReader
from sorta.settings import LEARNED
from sorta.store import trail
from sorta.store.accounts import Account
from sorta.store.db import Database
from sorta.store.files import Files
from sorta.store.keyring import Keyring, make_key
from sorta.store.live import LiveHub
from sorta.store.queue import Queue

OUTSIDE = "http://outside.test"
KEYS = Keyring.read(make_key())
PASSWORD = "correct horse"
SECRET = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"
ROLES = {"mara": Role.LEAD, "ilse": Role.RESPONDER, "ana": Role.TRAINEE, "noor": Role.OWNER, "lise": Role.OBSERVER}


@functools.cache
def get_reader() -> LearnedReader:
    """What messages are read by, loaded once."""
    return LearnedReader.load(LEARNED)


@dataclass
class World:
    house: House
    outside: httpx.AsyncClient
    now: datetime
    workspace_id: int = 0
    other_workspace_id: int = 0
    scopes: dict[str, Scope] = field(default_factory=dict)
    accounts: dict[str, Account] = field(default_factory=dict)
    desk_id: int = 0
    files: Path | None = None

    async def control(self, path: str, **body: Any) -> dict[str, Any]:
        answer = await self.outside.post(f"/control/{path}", json=body)
        assert answer.status_code == 200, answer.text
        return answer.json()

    async def say(
        self,
        text: str,
        *,
        network: str = "commonfold",
        kind: str = "comment",
        handle: str = "petra",
        parent: str | None = None,
        at: datetime | None = None,
        **more: Any,
    ) -> dict[str, Any]:
        """Somebody outside says something; the activity, not yet taken in."""
        await self.control("clocks", clocks={network: (at or self.now).isoformat()})
        if kind == "comment" and parent is None:
            parent = (await self.publish(network))["object"]["id"]
        to = "brinewick" if kind == "private" else None
        body = {"network": network, "kind": kind, "handle": handle, "name": handle.capitalize(), "text": text}
        return await self.control("say", **{**body, **more}, page="brinewick", parent=parent, to=to, tell=False)

    def get_token(self, network: str = "commonfold") -> str:
        """What the account shows its network."""
        return make_ref(self.house, self.accounts[network]).token

    async def cases(self) -> list[dict[str, Any]]:
        """What the support desk outside holds, oldest first."""
        return (await self.outside.get("/control/desk")).json()["cases"][::-1]

    async def publish(self, network: str = "commonfold", title: str = "Meet the touch pool") -> dict[str, Any]:
        body = {"network": network, "handle": "brinewick", "name": "Brinewick Aquarium", "page": "brinewick"}
        return await self.control("say", **body, kind="post", title=title, text="Flat hands.", tell=False)

    async def take(self, *activities: dict[str, Any], network: str = "commonfold", now: datetime | None = None) -> None:
        account = self.accounts[network]
        seens = [intake.read_activity(self.house, account, a) for a in activities]
        await ingest.take_in(self.house, account, seens, now or self.now)

    async def hear(self, text: str, **more: Any) -> int:
        """Somebody says something and it comes in; the conversation's number."""
        network = more.get("network", "commonfold")
        activity = await self.say(text, **more)
        await self.take(activity, network=network, now=more.get("at"))
        row = await self.find(activity["object"]["id"], network)
        return row.conversation_id

    async def find(self, external_id: str, network: str = "commonfold") -> trail.KnownMessage:
        async with self.house.db.transact(self.workspace_id) as tx:
            found = await trail.get_message_by_external_id(tx, self.accounts[network].id, external_id)
        assert found is not None
        return found

    async def row(self, conversation_id: int) -> dict[str, Any]:
        async with self.house.db.transact(self.workspace_id) as tx:
            row = await trail.get_conversation(tx, conversation_id)
        assert row is not None
        return row

    async def columns(self, table: str) -> set[str]:
        """The columns that somebody writes, not the database."""
        given = "select column_name from information_schema.columns where table_name = %s and is_generated = 'NEVER'"
        async with self.house.db.transact(self.workspace_id) as tx:
            return {row[0] for row in await (await tx.execute(given, [table])).fetchall()}

    async def kinds(self, conversation_id: int) -> list[str]:
        """The kinds of the events in a trail."""
        async with self.house.db.transact(self.workspace_id) as tx:
            return [e.kind for e in await trail.list_trail(tx, conversation_id)]

    async def things(self, network: str = "commonfold") -> list[dict[str, Any]]:
        """Everything said on a network, newest first."""
        return (await self.outside.get(f"/control/state/{network}")).json()["things"]

    def after(self, **span: float) -> datetime:
        return self.now + timedelta(**span)


@dataclass(frozen=True)
class Furnished:
    """What a world is begun with again in a copy of its database: the Outside's state, and who and what is there."""

    outside: bytes
    fields: dict[str, Any]


async def furnish(conninfo: str, now: datetime, files: Path) -> Furnished:
    """Furnish an empty database, for worlds to be begun in copies of it."""
    app = begin_outside()
    async with make_house(conninfo, now, files, app) as world:
        await _furnish(world)
        names = ("workspace_id", "other_workspace_id", "scopes", "accounts", "desk_id")
        return Furnished(app.state.world.state.save(), {name: getattr(world, name) for name in names})


def name_database(world: World) -> str:
    """Of this world's own, to come to it as another role."""
    return world.house.db.pool.conninfo.rpartition("/")[2]


@functools.cache
def get_outside() -> FastAPI:
    """The one program outside of this process: each world begins it anew, for making it takes as long as a short test."""
    return make_outside(State(":memory:"), OUTSIDE)


def make_client(network: str) -> Client:
    """What Sorta is to a stand-in network."""
    issuer = f"{OUTSIDE}/networks/{network}"
    return Client(issuer=issuer, client_id="desk", client_secret="s:cr%t", api_url=f"{OUTSIDE}/api/{network}")


def begin_outside(saved: bytes | None = None) -> FastAPI:
    """The stand-ins in this state, or as if nobody were there yet."""
    app = get_outside()
    app.state.world.begin_anew()
    app.state.world.state.restore(saved or State(":memory:").save())
    return app


@asynccontextmanager
async def make_world(conninfo: str, now: datetime, files: Path, furnished: Furnished) -> AsyncIterator[World]:
    """A world in a copy of the database that was furnished."""
    async with make_house(conninfo, now, files, begin_outside(furnished.outside)) as world:
        yield replace(world, **{name: copy(value) for name, value in furnished.fields.items()})


@asynccontextmanager
async def make_house(conninfo: str, now: datetime, files: Path, outside_app: FastAPI) -> AsyncIterator[World]:
    """A world in which there is nothing yet."""
    transport = httpx.ASGITransport(app=outside_app)
    async with httpx.AsyncClient(transport=transport, base_url=OUTSIDE) as outside:
        house = House(
            db=Database(conninfo, keys=KEYS, min_size=1, max_size=6),
            keys=KEYS,
            queue=Queue(conninfo),
            live=LiveHub(conninfo),
            networks=make_networks(Outgoing(outside)),
            reader=get_reader(),
            case_desk=HttpCaseDesk(Outgoing(outside)),
            program_post=HttpPrograms(Outgoing(outside)),
            grantor=OAuthGrantor(
                Outgoing(outside), {network: make_client(network) for network in TABLE}, "http://desk.test"
            ),
            files=Files(files),
        )
        await house.open()
        try:
            yield World(house, outside, now, files=files)
        finally:
            await house.close()


async def _furnish(world: World) -> None:
    trust = await organisation.add_organisation(world.house, "Trust")
    world.workspace_id = await organisation.add_workspace(world.house, trust, "Aquarium", "Europe/Copenhagen")
    world.other_workspace_id = await organisation.add_workspace(world.house, trust, "Elsewhere", "Europe/Copenhagen")
    people = {**dict.fromkeys(ROLES, world.workspace_id), "otto": world.other_workspace_id}
    for name, workspace_id in people.items():
        member_id = await organisation.add_member(
            world.house,
            trust,
            email=f"{name}@brinewick.example",
            name=f"{name.capitalize()} Person",
            initials=name[:2].upper(),
            password=PASSWORD,
        )
        role = ROLES.get(name, Role.OWNER)
        await organisation.set_role(world.house, workspace_id, member_id, role)
        world.scopes[name] = Scope(
            workspace_id=workspace_id,
            member_id=member_id,
            name=name,
            role=STARTING[role],
            zone=ZoneInfo("Europe/Copenhagen"),
            csrf="",
        )
    for network in TABLE:
        page = await world.control("actors", network=network, handle="brinewick", name="Brinewick Aquarium", page=True)
        values = {
            "network": network,
            "name": "Brinewick Aquarium",
            "handle": "brinewick",
            "external_id": page["id"],
            "api_url": f"{OUTSIDE}/api/{network}",
            "token": page["token"],
            "hook_secret": SECRET,
        }
        account_id = await accounts.add_account(world.house, world.workspace_id, values)
        world.accounts[network] = await accounts.get_account(world.house, world.workspace_id, account_id)
    await world.control("desk", token="tok_desk", hook_url="http://nobody.test", hook_secret=SECRET)
    desk = {"name": "Ticket office", "api_url": f"{OUTSIDE}/desk/api", "token": "tok_desk", "hook_secret": SECRET}
    world.desk_id = await cases.add_desk(world.house, world.workspace_id, {**desk, "follow_hours": 72})
