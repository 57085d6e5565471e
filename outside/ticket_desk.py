"""The stand-in support desk: takes cases once by their key, and tells how they stand by signed webhook.

Its state on the Outside's page is set by hand, as somebody at the ticket office would.
"""

import asyncio
import json
import secrets
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import Body, FastAPI, Header
from fastapi.responses import JSONResponse

from outside.mischief import Mischief
from outside.state import State
from outside.world import World

#: The name its misbehaviour goes by.
NAME = "desk"
STATES = ("open", "waiting", "solved", "returned")
#: The page shows so many cases, the latest first.
SHOWN = 40


class Turned(Exception):
    """A status and words for the caller."""

    def __init__(self, status: int, detail: str) -> None:
        super().__init__(detail)
        self.status, self.detail = status, detail


def add_ticket_desk(app: FastAPI, state: State, mischief: Mischief, world: World) -> None:
    """What others call, and what the page shows and changes."""

    @app.exception_handler(Turned)
    async def on_turned(request: Any, error: Turned) -> JSONResponse:
        return JSONResponse({"detail": error.detail}, error.status)

    async def do_once(path: str, authorization: str | None, key: str | None, body: dict[str, Any]) -> JSONResponse:
        """What was asked under this key before is answered as before; else it is done, unless told to misbehave."""
        settings = state.get_setting("desk", {})
        if not settings or authorization != f"Bearer {settings['token']}":
            raise Turned(401, "The desk does not know this token.")
        if not key:
            raise Turned(400, "Send an Idempotency-Key.")
        await asyncio.sleep(mischief.get(NAME)["slow_ms"] / 1000)
        if mischief.use(NAME, "fail"):
            raise Turned(500, "Something broke at the desk.")
        asked = json.dumps([path, body], sort_keys=True)
        known = state.get_sent(key)
        if known is not None:
            if known["body"] != asked:
                raise Turned(422, "This Idempotency-Key was used for something else.")
            return JSONResponse(json.loads(known["answer"]), 200)
        if mischief.use(NAME, "refuse"):
            raise Turned(403, "The ticket office takes nothing about this.")
        told = open_case(body) if path == "cases" else add_message(path.split("/")[1], body)
        state.add_sent(key, asked, told)
        if mischief.use(NAME, "lose"):
            raise Turned(500, "The answer was lost on its way.")
        return JSONResponse(told, 201)

    def open_case(body: dict[str, Any]) -> dict[str, Any]:
        number = state.count_cases() + 4071
        case = {
            "id": f"case_{number}",
            "reference": f"BO-{number}",
            "url": f"{world.base}/#desk",
            "state": "open",
            "messages": [],
            "remarks": [],
            **{k: body.get(k, "") for k in ("subject", "customer", "address", "note", "by")},
        }
        state.set_case(case)
        return {k: case[k] for k in ("id", "reference", "url")}

    def add_message(id: str, body: dict[str, Any]) -> dict[str, Any]:
        case = get_case(id)
        case["messages"].append(body)
        state.set_case(case)
        return {"id": f"{id}_{len(case['messages'])}"}

    def get_case(id: str) -> dict[str, Any]:
        case = state.get_case(id)
        if case is None:
            raise Turned(404, "There is no such case.")
        return case

    @app.post("/desk/api/cases", status_code=201)
    async def post_case(
        body: Annotated[dict[str, Any], Body()],
        authorization: Annotated[str | None, Header()] = None,
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        return await do_once("cases", authorization, idempotency_key, body)

    @app.post("/desk/api/cases/{id}/messages", status_code=201)
    async def post_message(
        id: str,
        body: Annotated[dict[str, Any], Body()],
        authorization: Annotated[str | None, Header()] = None,
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        return await do_once(f"cases/{id}", authorization, idempotency_key, body)

    @app.post("/control/desk")
    async def set_desk(body: Annotated[dict[str, str], Body()]) -> dict[str, Any]:
        """Who may hand over, and where news of a case goes: token, hook_url, hook_secret."""
        state.set_setting("desk", {k: body[k] for k in ("token", "hook_url", "hook_secret")})
        return {"token": body["token"]}

    @app.get("/control/desk")
    async def get_desk() -> dict[str, Any]:
        return {"cases": state.list_cases(SHOWN), "states": STATES, "mischief": mischief.get(NAME)}

    @app.post("/control/cases/{id}")
    async def change_case(id: str, body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """Set its state, add a remark, and tell; with 'tell' false what would be told is only answered."""
        case = get_case(id)
        if body.get("state", case["state"]) not in STATES:
            raise Turned(422, f"States are {', '.join(STATES)}.")
        case["state"] = body.get("state", case["state"])
        by, remark = body.get("by") or "Ticket office", body.get("remark") or ""
        at = body.get("at") or datetime.now(UTC).isoformat()
        if remark:
            case["remarks"].append({"by": by, "text": remark, "at": at})
        state.set_case(case)
        data = {"case": id, "state": case["state"], "by": by, "remark": remark, "at": at}
        told = {"id": f"evt_{secrets.token_hex(10)}", "type": "case.updated", "data": data}
        settings = state.get_setting("desk", {})
        if body.get("tell", True) and settings:
            listener = {"id": "ticket desk", "hook_url": settings["hook_url"], "hook_secret": settings["hook_secret"]}
            world.hooks.send(NAME, listener, told)
        return told
