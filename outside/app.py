"""The Outside's HTTP side: the networks' own API, the control of the stand-in, and its page.

python -m outside.app --port 8701 --state FILE
"""

import argparse
import asyncio
import json
import secrets
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import quote, unquote

import regex
import uvicorn
from fastapi import Body, FastAPI, Header, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles

from outside.consent import add_consent, find_grant
from outside.hooks import Hooks
from outside.identity import add_identity
from outside.mail import add_mail, start_mail
from outside.mischief import Mischief
from outside.networks import NETWORKS
from outside.state import State
from outside.texting import add_texting
from outside.ticket_desk import add_ticket_desk
from outside.translator import add_translator
from outside.world import PACES, PUBLIC, Unfit, World

STATIC = Path(__file__).parent / "static"
PAGE = 50
LARGEST_FILE = 16 * 2**20


class Denied(Exception):
    """A status and words for the caller."""

    def __init__(self, status: int, detail: str, headers: dict[str, str] | None = None) -> None:
        super().__init__(detail)
        self.status, self.detail, self.headers = status, detail, headers


def make_app(state: State, base: str, mail_port: int | None = None) -> FastAPI:
    """The program around one state; it takes mail when it is given a port for that."""
    mischief = Mischief(state)
    world = World(state, Hooks(mischief), base)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        task = asyncio.create_task(world.live())
        mail = await start_mail(state, mail_port) if mail_port is not None else None
        yield
        task.cancel()
        if mail is not None:
            mail.close()

    app = FastAPI(title="The Outside", lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.world = world
    app.mount("/static", StaticFiles(directory=STATIC))

    @app.exception_handler(Denied)
    async def on_denied(request: Request, error: Denied) -> JSONResponse:
        return JSONResponse({"detail": error.detail}, error.status, error.headers)

    @app.exception_handler(Unfit)
    async def on_unfit(request: Request, error: Unfit) -> JSONResponse:
        return JSONResponse({"detail": str(error)}, 422)

    @app.get("/")
    async def get_page() -> FileResponse:
        return FileResponse(STATIC / "index.html")

    _add_api(app, state, mischief, world)
    add_consent(app, state, world)
    add_identity(app, state, world)
    add_translator(app)
    add_texting(app, state)
    add_mail(app, state)
    add_ticket_desk(app, state, mischief, world)
    _add_control(app, state, mischief, world)
    return app


def _add_api(app: FastAPI, state: State, mischief: Mischief, world: World) -> None:
    """What a page's client may do: publish an answer once, and read what happened."""

    async def admit(network: str, authorization: str | None, *, spoil: bool) -> dict[str, Any]:
        if network not in NETWORKS:
            raise Denied(404, "There is no such network.")
        token = (authorization or "").removeprefix("Bearer ")
        page, grant = state.get_actor_by_token(network, token), find_grant(state, token)
        if page is None and grant is not None and grant["network"] == network:
            page = {**(state.get_actor(grant["page"]) or {}), "without_messages": not grant["messages"]}
        if page is None:
            raise Denied(401, "The access token has expired or was never valid.")
        await asyncio.sleep(mischief.get(network)["slow_ms"] / 1000)
        if not spoil:
            return page
        if mischief.use(network, "fail"):
            raise Denied(500, "Something broke on our side.")
        if mischief.use(network, "limit"):
            raise Denied(429, "Too many requests.", {"Retry-After": str(mischief.get(network)["retry_after"])})
        return page

    def get_answered(key: str | None, body: dict[str, Any]) -> tuple[str, str, JSONResponse | None]:
        """The key, what was asked under it as text, and the answer when the same was asked before."""
        if not key:
            raise Denied(400, "Send an Idempotency-Key.")
        text = json.dumps(body, sort_keys=True)
        known = state.get_sent(key)
        if known is not None and known["body"] != text:
            raise Denied(422, "This Idempotency-Key was used for something else.")
        return key, text, None if known is None else JSONResponse(json.loads(known["answer"]), 200)

    @app.post("/api/{network}/objects", status_code=201)
    async def add_object(
        request: Request,
        network: str,
        body: Annotated[dict[str, Any], Body()],
        authorization: Annotated[str | None, Header()] = None,
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        page = await admit(network, authorization, spoil=True)
        key, text, known = get_answered(idempotency_key, body)
        if known is not None:
            return known
        if mischief.use(network, "refuse"):
            raise Denied(403, "Comments are closed here.")
        answer = _publish(state, world, network, page, body, key)
        state.add_sent(key, text, answer)
        if mischief.use(network, "lose"):
            while not await request.is_disconnected():  # noqa: ASYNC110  (nothing signals it)
                await asyncio.sleep(0.1)
        return JSONResponse(answer, 201)

    @app.post("/api/{network}/media", status_code=201)
    async def add_media(
        request: Request,
        network: str,
        authorization: Annotated[str | None, Header()] = None,
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        """A file to be named in an answer that follows; the same key is the same file."""
        await admit(network, authorization, spoil=True)
        if not NETWORKS[network].attachments:
            raise Denied(403, f"{NETWORKS[network].name} takes no files.")
        if not idempotency_key:
            raise Denied(400, "Send an Idempotency-Key.")
        content = await request.body()
        if len(content) > LARGEST_FILE:
            raise Denied(413, f"A file can be {LARGEST_FILE} bytes large.")
        name = unquote(request.headers.get("content-disposition", "").rpartition("''")[2]) or "file"
        media_type = request.headers.get("content-type", "application/octet-stream")
        return JSONResponse(
            {"id": f"{world.base}/media/{state.add_media(idempotency_key, media_type, name, content)}"}, 201
        )

    @app.get("/media/{n}")
    async def get_media(n: int) -> Response:
        kept = state.get_media(n)
        if kept is None:
            raise Denied(404, "There is no such file.")
        return Response(kept["content"], media_type=kept["type"], headers={"X-Content-Type-Options": "nosniff"})

    @app.post("/api/{network}/acts", status_code=201)
    async def add_act(
        network: str,
        body: Annotated[dict[str, Any], Body()],
        authorization: Annotated[str | None, Header()] = None,
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        page = await admit(network, authorization, spoil=True)
        key, text, known = get_answered(idempotency_key, body)
        if known is not None:
            return known
        if mischief.use(network, "refuse"):
            raise Denied(403, "That is not allowed here.")
        answer = world.act(network, page, body)
        state.add_sent(key, text, answer)
        return JSONResponse(answer, 201)

    @app.get("/api/{network}/activities")
    async def list_activities(
        network: str,
        after: int = 0,
        since: datetime | None = None,
        until: datetime | None = None,
        authorization: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        """What happened to a page, a range of it where one is asked for, with how many there are in that."""
        page = await admit(network, authorization, spoil=False)
        here, total = f"{world.base}/api/{network}/activities?", None
        if since is not None and until is not None:
            every = [
                (n, one) for n, one in state.list_activities(page["id"], 0, 10**6) if since <= _get_time(one) < until
            ]
            total, items = len(every), [(n, one) for n, one in every if n > after][:PAGE]
            here += f"since={quote(since.isoformat())}&until={quote(until.isoformat())}&"
        else:
            items = state.list_activities(page["id"], after, PAGE)
        last = items[-1][0] if items else after
        if page.get("without_messages"):
            items = [(n, one) for n, one in items if PUBLIC in one.get("to", [PUBLIC])]
        return _make_page(here, items, after, last, total)

    @app.get("/api/{network}/search")
    async def search(
        network: str, words: str, after: int = 0, authorization: Annotated[str | None, Header()] = None
    ) -> JSONResponse:
        await admit(network, authorization, spoil=False)
        if not NETWORKS[network].search:
            raise Denied(403, "There is no searching here.")
        beginnings = NETWORKS[network].search_beginnings
        found = state.search_things(network, words.split(), after, PAGE, beginnings=beginnings)
        items = [(n, {"type": "Create", "actor": t["attributedTo"], "object": t, "to": t["to"]}) for n, t in found]
        last = items[-1][0] if items else after
        return _make_page(f"{world.base}/api/{network}/search?words={quote(words)}&", items, after, last)


def _get_time(activity: dict[str, Any]) -> datetime:
    """When an activity happened: as it says, or as what it is about does."""
    thing = activity.get("object")
    said = (
        activity.get("published") or activity.get("updated") or (thing if isinstance(thing, dict) else {})["published"]
    )
    return datetime.fromisoformat(str(said))


def _make_page(
    here: str, items: list[tuple[int, dict[str, Any]]], after: int, last: int, total: int | None = None
) -> JSONResponse:
    """A page of a collection in the order things happened; `here` ends where `after=` goes on."""
    return JSONResponse(
        {
            "@context": "https://www.w3.org/ns/activitystreams",
            "type": "OrderedCollectionPage",
            "id": f"{here}after={after}",
            "partOf": here[:-1],
            "orderedItems": [activity for _, activity in items],
            "next": f"{here}after={last}",
            **({} if total is None else {"totalItems": total}),
        },
        media_type="application/activity+json",
    )


def _publish(
    state: State, world: World, network: str, page: dict[str, Any], body: dict[str, Any], key: str
) -> dict[str, Any]:
    """Publish a page's answer, within what the network allows."""
    rules = NETWORKS[network]
    if page.get("without_messages") and PUBLIC not in body.get("to", []):
        raise Denied(403, "The account's owner has not allowed its private messages to this program.")
    parent = state.get_thing(str(body.get("inReplyTo") or ""))
    text = str(body.get("content") or "")
    if parent is None or "deleted" in parent:
        raise Denied(410, "What you answer is not there any more.")
    # A file speaks for itself.
    if len(regex.findall(r"\X", text)) > rules.limit or not (text.strip() or body.get("attachment")):
        raise Denied(422, f"Between 1 and {rules.limit} characters, please.")
    partner = state.get_actor(parent["attributedTo"]["id"])
    assert partner is not None
    public = PUBLIC in body.get("to", [])
    was_public = PUBLIC in parent["to"]
    if public and not (rules.public and was_public):
        raise Denied(403, f"{rules.name} has no public answer to that.")
    if public and rules.handle_in_front and not f"{text} ".startswith(f"@{partner['handle']} "):
        raise Denied(422, f"Begin with @{partner['handle']}.")
    if not public and was_public and not rules.private_to_public:
        raise Denied(403, f"{rules.name} lets nobody start a private conversation.")
    hours = rules.private_to_public_hours if was_public else rules.window_hours
    if not public and hours is not None:
        age = datetime.fromisoformat(world.get_now(network, parent["id"])) - datetime.fromisoformat(parent["published"])
        if age > timedelta(hours=hours):
            raise Denied(403, f"More than {hours} hours have passed since they wrote.")
    if rules.one_answer and parent.get("answered"):
        raise Denied(403, f"{rules.name} takes one answer.")
    if rules.one_answer:
        parent["answered"] = True
        state.set_thing(network, parent)
    files = body.get("attachment") or []
    if files and not rules.attachments:
        raise Denied(403, f"{rules.name} takes no files.")
    for file in files:
        there, _, n = str(file.get("url")).rpartition("/")
        if there != f"{world.base}/media" or not n.isdigit() or state.get_media(int(n)) is None:
            raise Denied(422, "A file that you name is not here.")
    kind = "answer" if public else "private"
    activity = world.say(
        network, page, kind, text, page=page, parent=parent, to=partner, client_key=key, attachments=files
    )
    thing: dict[str, Any] = activity["object"]
    return thing


def _add_control(app: FastAPI, state: State, mischief: Mischief, world: World) -> None:
    """What the stand-in's own page and the loading of the demo use."""

    def get_page_actor(network: str, handle: str | None) -> dict[str, Any] | None:
        return state.get_actor(f"{world.base}/{network}/actors/{handle}") if handle else None

    @app.get("/control/state/{network}")
    async def get_state(network: str) -> dict[str, Any]:
        if network not in NETWORKS:
            raise Denied(404, "There is no such network.")
        return {
            "networks": [{"key": n.key, "name": n.name, "kinds": n.kinds} for n in NETWORKS.values()],
            "actors": [{**a, "hook_secret": None} for a in state.list_actors(network)],
            "things": state.list_things(network),
            "mischief": mischief.get(network),
            "pace": state.get_setting("pace", "paused"),
            "paces": list(PACES),
        }

    @app.post("/control/actors")
    async def add_actor(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        return world.make_actor(
            body["network"], body["handle"], body["name"], body.get("reach"), bool(body.get("page"))
        )

    def say(body: dict[str, Any]) -> dict[str, Any]:
        network = body["network"]
        if "clock" in body:
            world.set_clock(network, body["clock"])
        actor = world.make_actor(
            network,
            body["handle"],
            body.get("name") or body["handle"],
            body.get("reach"),
            page=bool((get_page_actor(network, body["handle"]) or {}).get("page")),
        )
        if "program" in body:
            state.set_setting(f"program:{actor['id']}", bool(body["program"]))
        parent = state.get_thing(body["parent"]) if body.get("parent") else None
        to = get_page_actor(network, body.get("to"))
        return world.say(
            network,
            actor,
            body["kind"],
            body["text"],
            page=get_page_actor(network, body.get("page")),
            parent=parent,
            title=body.get("title", ""),
            to=to,
            tell=body.get("tell", True),
            rating=body.get("rating"),
            sponsored=bool(body.get("sponsored")),
        )

    def like(body: dict[str, Any]) -> dict[str, Any]:
        network = body["network"]
        if "clock" in body:
            world.set_clock(network, body["clock"])
        return world.like(body["id"], world.make_actor(network, body["handle"], body["name"]))

    @app.post("/control/say")
    async def say_one(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        return say(body)

    @app.post("/control/like")
    async def like_one(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        return like(body)

    @app.post("/control/happened")
    async def tell_many(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """Things said and liked one after the other; the activities in that order."""
        do = {"say": say, "like": like}
        return {"activities": [do[thing["what"]](thing) for thing in body["things"]]}

    @app.post("/control/edit")
    async def edit(body: Annotated[dict[str, str], Body()]) -> dict[str, Any]:
        return world.edit(body["id"], body["text"])

    @app.post("/control/remove")
    async def remove(body: Annotated[dict[str, str], Body()]) -> dict[str, Any]:
        return world.remove(body["id"])

    @app.post("/control/mischief/{network}")
    async def set_mischief(network: str, body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        try:
            return mischief.set(network, body)
        except ValueError as error:
            raise Denied(422, str(error)) from error

    @app.post("/control/expire")
    async def expire(body: Annotated[dict[str, str], Body()]) -> dict[str, Any]:
        """The page's token is worth nothing from now on; the new one is in the answer."""
        page = get_page_actor(body["network"], body["page"])
        if page is None:
            raise Denied(404, "There is no such page.")
        token = f"tok_{secrets.token_urlsafe(18)}"
        state.set_token(page["id"], token)
        return {"token": token}

    @app.post("/control/hook")
    async def set_hook(body: Annotated[dict[str, str], Body()]) -> dict[str, str]:
        state.set_hook(body["page"], body["url"], body["secret"])
        return {"page": body["page"]}

    @app.post("/control/raw")
    async def send_raw(body: Annotated[dict[str, str], Body()]) -> dict[str, str]:
        """Deliver any text as a signed webhook."""
        page = get_page_actor(body["network"], body["page"])
        if page is None or not page["hook_url"]:
            raise Denied(404, "Nobody listens to that page.")
        world.hooks.send_raw(body["network"], page, body["body"])
        return {"page": page["id"]}

    @app.post("/control/heard")
    async def wait_heard(body: Annotated[dict[str, float], Body()]) -> dict[str, bool]:
        """Wait until every page's listener has heard what was said, at most so many seconds."""
        return {"heard": await world.hooks.wait(min(body["seconds"], 30))}

    @app.post("/control/clocks")
    async def set_clocks(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """Set clocks back, for loading history: a network's, or that by which one thing is answered; null lets one go right again."""
        for whose, at in body["clocks"].items():
            world.set_clock(whose, at)
        return {"clocks": sorted(body["clocks"])}

    @app.post("/control/settings")
    async def set_settings(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """Pace and script."""
        if "pace" in body and body["pace"] not in PACES:
            raise Denied(422, f"Paces are {', '.join(PACES)}.")
        for key in ("pace", "script"):
            if key in body:
                state.set_setting(key, body[key])
        return {"pace": state.get_setting("pace", "paused")}

    @app.get("/healthz")
    async def get_health() -> dict[str, str]:
        return {"status": "alive", "at": datetime.now(UTC).isoformat()}


def main() -> None:
    """Serve until stopped."""
    parser = argparse.ArgumentParser(description="Stand-in networks")
    parser.add_argument("--port", type=int, default=8701)
    parser.add_argument("--mail-port", type=int, default=None)
    parser.add_argument("--state", default=":memory:")
    given = parser.parse_args()
    app = make_app(State(given.state), f"http://127.0.0.1:{given.port}", given.mail_port)
    uvicorn.run(
        app, host="127.0.0.1", port=given.port, log_level="warning", timeout_graceful_shutdown=2, timeout_keep_alive=120
    )


if __name__ == "__main__":
    main()
