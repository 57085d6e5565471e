"""What happens on the networks: people say things, pages answer, and whoever listens is told."""

import asyncio
import random
import secrets
from datetime import UTC, datetime
from typing import Any

from outside.hooks import Hooks
from outside.networks import NETWORKS
from outside.state import State

PUBLIC = "https://www.w3.org/ns/activitystreams#Public"
CONTEXT = "https://www.w3.org/ns/activitystreams"
#: Seconds between events at each pace.
PACES = {"paused": None, "calm": 30.0, "busy": 4.0, "storm": 0.4}


class Unfit(Exception):
    """What was asked for makes no sense on this network."""


class World:
    """All networks together. `base` is this program's own address."""

    def __init__(self, state: State, hooks: Hooks, base: str) -> None:
        self.state = state
        self.hooks = hooks
        self.base = base
        self._clocks: dict[str, datetime] = {}
        self._dice = random.Random(7)

    def begin_anew(self) -> None:
        """As if it had just been made: its state is another."""
        self.hooks.forget()
        self._clocks.clear()
        self._dice = random.Random(7)

    # -- the clock, which only the loading of history sets -------------------------------------------
    def get_now(self, network: str, answered: str | None = None) -> str:
        """The network's time, or that at which a thing is answered."""
        at = (answered and self._clocks.get(answered)) or self._clocks.get(network)
        return (at or datetime.now(UTC)).isoformat()

    def set_clock(self, whose: str, at: str | None) -> None:
        """Each network has a clock of its own, and each thing for its answers where one is set, so that histories can be loaded side
        by side."""
        self._clocks.pop(whose, None)
        if at:
            self._clocks[whose] = datetime.fromisoformat(at)

    # -- actors ----------------------------------------------------------------------------------------
    def make_actor(
        self, network: str, handle: str, name: str, reach: int | None = None, page: bool = False
    ) -> dict[str, Any]:
        """An actor by that handle, made when it is new."""
        if network not in NETWORKS:
            raise Unfit(f"There is no network {network!r}.")
        id = f"{self.base}/{network}/actors/{handle}"
        old = self.state.get_actor(id)
        token = old["token"] if old else (f"tok_{secrets.token_urlsafe(18)}" if page else None)
        self.state.set_actor(
            {
                "id": id,
                "network": network,
                "handle": handle,
                "name": name,
                "reach": reach,
                "page": int(page),
                "token": token,
            }
        )
        actor = self.state.get_actor(id)
        assert actor is not None
        return actor

    def describe_actor(self, actor: dict[str, Any]) -> dict[str, Any]:
        """An actor as ActivityStreams tells it; a program is a Service."""
        kind = "Service" if self.state.get_setting(f"program:{actor['id']}", False) else "Person"
        told = {
            "type": "Organization" if actor["page"] else kind,
            "id": actor["id"],
            "name": actor["name"],
            "preferredUsername": actor["handle"],
        }
        if actor["reach"] is not None:
            told["reach"] = actor["reach"]
        return told

    # -- saying things ---------------------------------------------------------------------------------
    def say(
        self,
        network: str,
        actor: dict[str, Any],
        kind: str,
        text: str,
        *,
        page: dict[str, Any] | None = None,
        parent: dict[str, Any] | None = None,
        title: str = "",
        to: dict[str, Any] | None = None,
        client_key: str | None = None,
        tell: bool = True,
        rating: int | None = None,
        sponsored: bool = False,
        attachments: list[dict[str, Any]] | None = None,
    ) -> dict[str, Any]:
        """Say something and tell the page concerned; the activity."""
        self._check(network, kind, page, parent, text or ("…" if attachments else ""))
        if self.is_blocked(page or self._find_page(parent or {}), actor):
            raise Unfit("That page has blocked you.")
        n = self.state.next_number()
        now = self.get_now(network, parent["id"] if parent and client_key else None)
        thing: dict[str, Any] = {
            "type": "Note",
            "id": f"{self.base}/{network}/things/{n}",
            "attributedTo": self.describe_actor(actor),
            "content": text,
            "mediaType": "text/plain",
            "published": now,
            "url": f"{self.base}/#{network}-{n}",
        }
        if kind == "review":
            thing.update(type=["Review", "Note"], reviewRating=rating or 3)
        if kind == "story_mention":
            thing["type"] = ["Story", "Note"]
        if kind == "form_entry":
            thing["type"] = ["FormEntry", "Note"]
        if kind in ("private", "form_entry"):
            partner = to or page
            assert partner is not None
            thing["to"] = [self.describe_actor(partner)]
        else:
            thing["to"] = [PUBLIC]
        if title:
            thing["name"] = title
        if attachments:
            thing["attachment"] = attachments
        if sponsored:
            thing["sponsored"] = True
        if parent is not None:
            thing["inReplyTo"] = self._shorten(parent)
            if kind != "private":
                root = self.state.get_thing(parent.get("context", {}).get("id", "")) or parent
                thing["context"] = self._shorten(root)
        if kind in ("mention", "story_mention") and page is not None:
            thing["tag"] = [{"type": "Mention", "href": page["id"], "name": f"@{page['handle']}"}]
        if client_key:
            thing["clientKey"] = client_key
        activity: dict[str, Any] = {
            "@context": CONTEXT,
            "type": "Create",
            "id": f"{thing['id']}/create",
            "actor": self.describe_actor(actor),
            "object": thing,
            "published": now,
            "to": thing["to"],
        }
        if kind in ("visitor_post", "review") and page is not None:
            activity["target"] = page["id"]
            thing["target"] = page["id"]
        self.state.set_thing(network, thing)
        self._tell(network, page or self._find_page(thing), activity, tell and not client_key)
        return activity

    @staticmethod
    def _check(network: str, kind: str, page: dict[str, Any] | None, parent: dict[str, Any] | None, text: str) -> None:
        if network not in NETWORKS:
            raise Unfit(f"There is no network {network!r}.")
        if not text.strip():
            raise Unfit("Say something.")
        if kind not in (*NETWORKS[network].kinds, "post", "answer"):
            raise Unfit(f"{NETWORKS[network].name} has no {kind.replace('_', ' ')}.")
        if kind in ("mention", "story_mention", "visitor_post", "review", "form_entry", "post") and page is None:
            raise Unfit("Say which page it is about.")
        if kind in ("comment", "reply") and parent is None:
            raise Unfit("Say what it answers.")

    @staticmethod
    def _shorten(thing: dict[str, Any]) -> dict[str, Any]:
        kept = (
            "type",
            "id",
            "name",
            "content",
            "mediaType",
            "attributedTo",
            "published",
            "url",
            "target",
            "tag",
            "sponsored",
        )
        return {k: thing[k] for k in kept if k in thing}

    def _find_page(self, thing: dict[str, Any]) -> dict[str, Any] | None:
        """The page a thing concerns: it wrote it, is named in it, or is what the thread hangs on."""
        for one in (thing, thing.get("context", {}), thing.get("inReplyTo", {})):
            ids = [one.get("attributedTo", {}).get("id"), one.get("target")]
            ids += [t.get("href") for t in one.get("tag", [])]
            ids += [t.get("id") for t in one.get("to", []) if isinstance(t, dict)]
            for id in ids:
                actor = self.state.get_actor(id) if id else None
                if actor is not None and actor["page"]:
                    return actor
        return None

    def _tell(self, network: str, page: dict[str, Any] | None, activity: dict[str, Any], by_hook: bool) -> None:
        if page is None:
            return
        self.state.add_activity(network, page["id"], activity)
        if by_hook and page["hook_url"]:
            self.hooks.send(network, page, activity)

    def edit(self, id: str, text: str) -> dict[str, Any]:
        """Change what somebody said."""
        thing = self._get(id)
        thing.update(content=text, updated=self.get_now(self._get_network(id)))
        return self._change(thing, {"type": "Update", "object": thing})

    def remove(self, id: str) -> dict[str, Any]:
        """Delete what somebody said."""
        thing = self._get(id)
        thing["deleted"] = self.get_now(self._get_network(id))
        tombstone = {"type": "Tombstone", "id": id, "formerType": thing["type"], "deleted": thing["deleted"]}
        return self._change(thing, {"type": "Delete", "object": tombstone})

    def act(self, network: str, page: dict[str, Any], activity: dict[str, Any]) -> dict[str, Any]:
        """One act of a page on what others wrote, or on them. Raises Unfit for what the network does not take."""
        undone = activity.get("type") == "Undo"
        inner = activity["object"] if undone and isinstance(activity.get("object"), dict) else activity
        kind, target = str(inner.get("type")), str(inner.get("object"))
        rules = NETWORKS[network]
        if kind == "Block":
            actor = self.state.get_actor(target)
            if kind not in rules.acts or actor is None:
                raise Unfit(f"{rules.name} has no blocking of that.")
            blocked = set(self.state.get_setting(f"blocked:{page['id']}", []))
            self.state.set_setting(
                f"blocked:{page['id']}", sorted(blocked - {target} if undone else blocked | {target})
            )
            return {"id": f"{target}/block", "type": kind}
        thing = self._get(target)
        is_own = thing["attributedTo"]["id"] == page["id"]
        if not (kind in rules.acts or (kind == "Delete" and is_own and rules.own_deletes)):
            raise Unfit(f"{rules.name} takes no {kind} here.")
        if kind == "Delete":
            thing["deleted"] = self.get_now(network)
        else:
            thing[{"Like": "likedByPage", "Ignore": "hidden", "Announce": "reposted"}[kind]] = not undone
        self.state.set_thing(network, thing)
        return {"id": f"{target}/{kind.lower()}", "type": kind}

    def is_blocked(self, page: dict[str, Any] | None, actor: dict[str, Any]) -> bool:
        """Whether a page has blocked somebody."""
        return page is not None and actor["id"] in self.state.get_setting(f"blocked:{page['id']}", [])

    def like(self, id: str, actor: dict[str, Any]) -> dict[str, Any]:
        """Like something."""
        thing = self._get(id)
        return self._change(thing, {"type": "Like", "object": id}, actor)

    def _get_network(self, id: str) -> str:
        return id.removeprefix(self.base).split("/")[1]

    def _get(self, id: str) -> dict[str, Any]:
        thing = self.state.get_thing(id)
        if thing is None or "deleted" in thing:
            raise Unfit("That is not there any more.")
        return thing

    def _change(
        self, thing: dict[str, Any], what: dict[str, Any], actor: dict[str, Any] | None = None
    ) -> dict[str, Any]:
        network = self._get_network(thing["id"])
        activity = {
            "@context": CONTEXT,
            "id": f"{thing['id']}/{what['type'].lower()}/{secrets.token_hex(6)}",
            "actor": self.describe_actor(actor) if actor else thing["attributedTo"],
            "published": self.get_now(network),
            **what,
        }
        self.state.set_thing(network, thing)
        self._tell(network, self._find_page(thing), activity, True)
        return activity

    # -- life goes on ----------------------------------------------------------------------------------
    async def live(self) -> None:
        """Keep things happening at the chosen pace, out of the script that was given."""
        waited = 0.0
        while True:
            await asyncio.sleep(0.2)
            waited += 0.2
            pause = PACES.get(self.state.get_setting("pace", "paused"))
            if pause is None:
                waited = 0.0
            elif waited >= pause:
                waited = 0.0
                self.happen()

    def happen(self) -> None:
        """One event out of the script."""
        script = self.state.get_setting("script", [])
        if not script:
            return
        # Each line once before any comes again, also over a restart: people do not say the same four times in a row.
        left = [n for n in self.state.get_setting("left", []) if n < len(script)]
        if not left:
            left = list(range(len(script)))
            self._dice.shuffle(left)
        line = script[left.pop()]
        self.state.set_setting("left", left)
        network = line["network"]
        actor = self.make_actor(network, line["handle"], line["name"], line.get("reach"))
        named = None if line["kind"] == "talk" else line["page"]
        page = self.state.get_actor(f"{self.base}/{network}/actors/{named}") if named else None
        parent = None
        if line["kind"] in ("comment", "reply"):
            posts = [
                t
                for t in self.state.list_things(network)
                if t.get("name") and t["attributedTo"]["id"] == (page or {}).get("id")
            ]
            if not posts:
                return
            parent = self._dice.choice(posts[:6])
        self.say(network, actor, line["kind"], line["text"], page=page, parent=parent, rating=line.get("rating"))
