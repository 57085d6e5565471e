"""A network's page where an account's owner lets a program in, and what stands behind it: OAuth 2.0 by code with PKCE.

RFC 6749 (code and refresh grants), 7636 (S256 only), 7009 (giving back), 8414 (its description), 9207 (who answers). Strict on purpose: a code is for one
client, one address, one try and a minute; a refresh token is for one use. `lasts` (control) is for how many seconds a token is taken.
"""

import base64
import hashlib
import hmac
import html
import json
import secrets
import time
from typing import Annotated, Any
from urllib.parse import parse_qsl, unquote, urlencode

from fastapi import Body, FastAPI, Header, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from outside.networks import NETWORKS
from outside.state import State
from outside.world import World

#: Networks at which an account and its private messages are two things to allow.
TWO_STEPS = frozenset({"commonfold", "pixfern"})
CODE_LASTS = 60
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>{network}: let a program in</title><style>body{{font:16px/1.5 system-ui;max-width:34rem;margin:10vh auto;padding:0 1rem}}
button{{font:inherit;padding:.4rem 1rem;margin-right:.6rem}}label{{display:block;margin:.3rem 0}}</style>
<h1>{network}</h1><p>The program <b>{client}</b> asks to read and answer for one of your accounts.</p>
<form method="post"><fieldset><legend>For which account?</legend>{pages}</fieldset>{messages}
<p><button name="allow" value="yes">Allow</button><button name="allow" value="no">Do not allow</button></p></form></html>"""


def get_issuer(world: World, network: str) -> str:
    """How a network calls itself."""
    return f"{world.base}/networks/{network}"


def find_grant(state: State, token: str) -> dict[str, Any] | None:
    """What a token lets a program do: its page and whether with messages; None when it is not taken (any more)."""
    grant: dict[str, Any] | None = state.get_setting(f"granted:{token}", None) or None
    return grant if grant is not None and grant["ends_at"] > time.time() else None


def add_consent(app: FastAPI, state: State, world: World) -> None:
    """The pages and places of all networks."""

    def refuse(error: str, why: str, status: int = 400) -> JSONResponse:
        return JSONResponse({"error": error, "error_description": why}, status, {"Cache-Control": "no-store"})

    def get_client(authorization: str | None) -> dict[str, Any] | None:
        kind, _, said = (authorization or "").partition(" ")
        if kind.lower() != "basic":
            return None
        id, _, secret = base64.b64decode(said).decode().partition(":")
        client: dict[str, Any] | None = state.get_setting(f"client:{unquote(id)}", None)
        fits = client is not None and hmac.compare_digest(client["secret"].encode(), unquote(secret).encode())
        return client if fits else None

    def find_asking(request: Request) -> dict[str, Any] | None:
        """The program that asks. RFC 6749, 4.1.2.1: who has no right to be sent back to is not sent back to."""
        asked = request.query_params
        client: dict[str, Any] | None = state.get_setting(f"client:{asked.get('client_id')}", None)
        return client if client is not None and asked.get("redirect_uri") in client["redirects"] else None

    def make_tokens(network: str, client: str, page: str, *, messages: bool) -> JSONResponse:
        lasts = (state.get_setting("lasts", None) or {}).get(network, 3600)
        token, fresh = f"tok_{secrets.token_urlsafe(18)}", f"ref_{secrets.token_urlsafe(18)}"
        kept = {"network": network, "client": client, "page": page, "messages": messages}
        state.set_setting(f"granted:{token}", {**kept, "ends_at": time.time() + lasts})
        state.set_setting(f"renews:{fresh}", kept)
        body = {"access_token": token, "token_type": "Bearer", "expires_in": lasts, "refresh_token": fresh}
        return JSONResponse(body, headers={"Cache-Control": "no-store"})

    @app.get("/.well-known/oauth-authorization-server/networks/{network}")
    async def describe(network: str) -> JSONResponse:
        issuer = get_issuer(world, network)
        return JSONResponse(
            {
                "issuer": issuer,
                "authorization_endpoint": f"{issuer}/authorise",
                "token_endpoint": f"{issuer}/token",
                "revocation_endpoint": f"{issuer}/revoke",
                "response_types_supported": ["code"],
                "code_challenge_methods_supported": ["S256"],
                "authorization_response_iss_parameter_supported": True,
            }
        )

    @app.get("/networks/{network}/authorise")
    async def show(network: str, request: Request) -> Response:
        asked = request.query_params
        client = find_asking(request)
        if client is None:
            return HTMLResponse("<h1>This program is not known here.</h1>", 400)
        if asked.get("code_challenge_method") != "S256" or len(asked.get("code_challenge", "")) != 43:
            return HTMLResponse("<h1>This program asks without PKCE.</h1>", 400)
        pages = [a for a in state.list_actors(network) if a["page"]]
        rows = "".join(
            f'<label><input type="radio" name="page" value="{html.escape(a["id"])}" {"checked" if n == 0 else ""}> '
            f"{html.escape(a['name'])} (@{html.escape(a['handle'])})</label>"
            for n, a in enumerate(pages)
        )
        two = '<label><input type="checkbox" name="messages" value="yes"> Its private messages, too</label>'
        shown = _PAGE.format(
            network=NETWORKS[network].name,
            client=html.escape(client["name"]),
            pages=rows,
            messages=two if network in TWO_STEPS else "",
        )
        return HTMLResponse(shown)

    @app.post("/networks/{network}/authorise")
    async def decide(network: str, request: Request) -> Response:
        asked = request.query_params
        client = find_asking(request)
        if client is None:
            return HTMLResponse("<h1>This program is not known here.</h1>", 400)
        said = dict(parse_qsl((await request.body()).decode()))
        back = {"state": asked.get("state", ""), "iss": get_issuer(world, network)}
        if said.get("allow") != "yes":
            back |= {"error": "access_denied", "error_description": "The account's owner does not allow it."}
        else:
            code = secrets.token_urlsafe(24)
            kept = {
                "network": network,
                "client": asked["client_id"],
                "redirect": asked["redirect_uri"],
                "challenge": asked["code_challenge"],
                "page": said["page"],
                "messages": network not in TWO_STEPS or said.get("messages") == "yes",
                "until": time.time() + CODE_LASTS,
            }
            state.set_setting(f"code:{code}", kept)
            back["code"] = code
        return RedirectResponse(f"{asked['redirect_uri']}?{urlencode(back)}", 303)

    @app.get("/networks/{network}/programs")
    async def list_programs(network: str) -> HTMLResponse:
        words = "A program that asks again can be allowed more: tick its private messages there."
        return HTMLResponse(f"<h1>{NETWORKS[network].name}</h1><p>{words}</p>")

    @app.post("/networks/{network}/token")
    async def give(network: str, request: Request, authorization: Annotated[str | None, Header()] = None) -> Response:
        client = get_client(authorization)
        if client is None:
            return refuse("invalid_client", "This program is not known here.", 401)
        said = dict(parse_qsl((await request.body()).decode()))
        if said.get("grant_type") == "authorization_code":
            key = f"code:{said.get('code')}"
            kept = state.get_setting(key, None)
            state.set_setting(key, None)
            digest = hashlib.sha256(said.get("code_verifier", "").encode()).digest()
            proof = base64.urlsafe_b64encode(digest).rstrip(b"=").decode()
            if (
                kept is None
                or kept["network"] != network
                or kept["client"] != client["id"]
                or kept["until"] < time.time()
                or kept["redirect"] != said.get("redirect_uri")
                or not hmac.compare_digest(kept["challenge"], proof)
            ):
                return refuse("invalid_grant", "The code is not for this, or is used up.")
            return make_tokens(network, client["id"], kept["page"], messages=kept["messages"])
        if said.get("grant_type") == "refresh_token":
            key = f"renews:{said.get('refresh_token')}"
            kept = state.get_setting(key, None)
            if kept is None or kept["network"] != network or kept["client"] != client["id"]:
                return refuse("invalid_grant", "The owner of the account has taken its leave back.")
            state.set_setting(key, None)
            return make_tokens(network, client["id"], kept["page"], messages=kept["messages"])
        return refuse("unsupported_grant_type", "There is no such grant here.")

    @app.post("/networks/{network}/revoke")
    async def take_back(
        network: str, request: Request, authorization: Annotated[str | None, Header()] = None
    ) -> Response:
        if get_client(authorization) is None:
            return refuse("invalid_client", "This program is not known here.", 401)
        token = dict(parse_qsl((await request.body()).decode())).get("token")
        for key in (f"granted:{token}", f"renews:{token}"):
            state.set_setting(key, None)
        return Response(status_code=200)

    @app.get("/api/{network}/me")
    async def tell_who(network: str, authorization: Annotated[str | None, Header()] = None) -> Response:
        token = (authorization or "").removeprefix("Bearer ")
        grant = find_grant(state, token)
        page = state.get_actor(grant["page"]) if grant else None
        if grant is None or page is None or grant["network"] != network:
            return JSONResponse({"detail": "The access token has expired or was never valid."}, 401)
        lacking = []
        if not grant["messages"]:
            words = "Its private messages: allow them on the network’s page, then connect it again."
            lacking.append({"words": words, "address": f"{get_issuer(world, network)}/programs"})
        return JSONResponse(
            {
                **world.describe_actor(page),
                "preferredUsername": page["handle"],
                "name": page["name"],
                "lacking": lacking,
            }
        )

    @app.post("/control/client")
    async def add_client(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """A program that networks know: id, secret, name, redirects."""
        state.set_setting(f"client:{body['id']}", body)
        return {"id": body["id"]}

    @app.post("/control/lasts")
    async def set_lasts(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """For how many seconds tokens of a network are taken."""
        state.set_setting("lasts", {**(state.get_setting("lasts", None) or {}), body["network"]: body["seconds"]})
        return body

    @app.post("/control/take-back")
    async def take_all_back(body: Annotated[dict[str, str], Body()]) -> dict[str, int]:
        """A page's owner takes back what was allowed to any program; with `only` granted its tokens end and can be renewed."""
        count, kinds = 0, (f"{body['only']}:",) if "only" in body else ("granted:", "renews:")
        for key, text in state.list_settings():
            kept = json.loads(text)
            if key.startswith(kinds) and kept and kept["page"] == body["page"]:
                state.set_setting(key, None)
                count += 1
        return {"taken_back": count}
