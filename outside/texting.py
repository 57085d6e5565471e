"""The stand-in gateway for text messages: takes each once, and shows what came. Used by outside.app."""

import re
from typing import Annotated, Any

from fastapi import Body, FastAPI, Header
from fastapi.responses import JSONResponse

from outside.state import State

TOKEN = "tok_texting"
#: Numbers that end so are nobody's.
NOBODY = "0000"
SHOWN = 60
_SETTING = "texts"
#: A number by ITU-T E.164: a plus sign and up to 15 digits.
_NUMBER = re.compile(r"\+[1-9]\d{6,14}")


def add_texting(app: FastAPI, state: State) -> None:
    """Its one address, and what the page shows of it."""

    @app.post("/texting/messages")
    async def add_message(
        body: Annotated[dict[str, Any], Body()],
        authorization: Annotated[str | None, Header()] = None,
        idempotency_key: Annotated[str | None, Header()] = None,
    ) -> JSONResponse:
        if authorization != f"Bearer {TOKEN}":
            return JSONResponse({"detail": "The token has expired or was never valid."}, 401)
        to, text = body.get("to"), body.get("text")
        if not isinstance(to, str) or not isinstance(text, str) or not idempotency_key or not _NUMBER.fullmatch(to):
            return JSONResponse({"detail": "Send an Idempotency-Key, a number with its country, and a text."}, 422)
        if to.endswith(NOBODY):
            return JSONResponse({"detail": "Nobody has this number."}, 404)
        known = state.get_setting(_SETTING, [])
        if idempotency_key not in {one["key"] for one in known}:
            state.set_setting(_SETTING, [{"key": idempotency_key, "to": to, "text": text}, *known][:SHOWN])
        return JSONResponse({"taken": True}, 202)

    @app.get("/control/texts")
    async def list_texts() -> list[dict[str, Any]]:
        """What came, the newest first."""
        found: list[dict[str, Any]] = state.get_setting(_SETTING, [])
        return found
