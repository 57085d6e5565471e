"""A provider that knows who somebody's colleagues are: OpenID Connect Core 1.0 by code with PKCE, and Discovery 1.0.

Strict on purpose: a code is for one client, one address, one try and a minute. Its page asks which colleague one is, and believes it: this is a stand-in.
"""

import base64
import hashlib
import hmac
import html
import json
import secrets
import time
from functools import lru_cache
from typing import Annotated, Any
from urllib.parse import parse_qsl, unquote, urlencode

from fastapi import Body, FastAPI, Header, Request
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from joserfc import jws
from joserfc.jwk import RSAKey

from outside.state import State
from outside.world import World

CODE_LASTS, WORD_LASTS = 60, 300
#: What it is called: the demo says the same to Sorta.
NAME = "Harbour House"
_PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>{name}</title><style>body{{font:16px/1.5 system-ui;max-width:34rem;margin:10vh auto;padding:0 1rem}}
button{{font:inherit;padding:.4rem 1rem;margin-right:.6rem}}label{{display:block;margin:.3rem 0}}</style>
<h1>{name}</h1><p><b>{client}</b> asks who you are.</p>
<form method="post"><fieldset><legend>You are</legend>{people}</fieldset>
<p><button name="allow" value="yes">Go on</button><button name="allow" value="no">Not now</button></p></form></html>"""


@lru_cache(maxsize=1)
def _get_key() -> RSAKey:
    """What its word is signed with, made anew each time the stand-in is started."""
    return RSAKey.generate_key(2048, parameters={"kid": secrets.token_hex(4), "use": "sig", "alg": "RS256"})


def add_identity(app: FastAPI, state: State, world: World) -> None:
    """Its pages and places."""
    issuer = f"{world.base}/identity"

    def find_client(id: str | None) -> dict[str, Any] | None:
        client: dict[str, Any] | None = state.get_setting(f"identity-client:{id}", None)
        return client

    def list_colleagues() -> list[dict[str, Any]]:
        kept = [json.loads(text) for key, text in state.list_settings() if key.startswith("colleague:")]
        return sorted((one for one in kept if one), key=lambda one: str(one["name"]))

    @app.get("/identity/.well-known/openid-configuration")
    async def describe_identity() -> JSONResponse:
        return JSONResponse(
            {
                "issuer": issuer,
                "authorization_endpoint": f"{issuer}/authorise",
                "token_endpoint": f"{issuer}/token",
                "userinfo_endpoint": f"{issuer}/about",
                "jwks_uri": f"{issuer}/keys",
                "response_types_supported": ["code"],
                "subject_types_supported": ["public"],
                "id_token_signing_alg_values_supported": ["RS256"],
                "code_challenge_methods_supported": ["S256"],
                "authorization_response_iss_parameter_supported": True,
            }
        )

    @app.get("/identity/keys")
    async def list_keys() -> JSONResponse:
        return JSONResponse({"keys": [_get_key().as_dict(private=False)]})

    def find_asking(request: Request) -> dict[str, Any] | None:
        asked = request.query_params
        client = find_client(asked.get("client_id"))
        fits = client is not None and asked.get("redirect_uri") in client["redirects"]
        return client if fits and "openid" in asked.get("scope", "").split() else None

    @app.get("/identity/authorise")
    async def show_identity(request: Request) -> Response:
        asked, client = request.query_params, find_asking(request)
        if client is None:
            return HTMLResponse("<h1>This program is not known here.</h1>", 400)
        if asked.get("code_challenge_method") != "S256" or len(asked.get("code_challenge", "")) != 43:
            return HTMLResponse("<h1>This program asks without PKCE.</h1>", 400)
        rows = "".join(
            f'<label><input type="radio" name="sub" value="{html.escape(one["sub"])}" {"checked" if n == 0 else ""}> '
            f"{html.escape(one['name'])}</label>"
            for n, one in enumerate(list_colleagues())
        )
        return HTMLResponse(_PAGE.format(name=NAME, client=html.escape(client["name"]), people=rows))

    @app.post("/identity/authorise")
    async def decide_identity(request: Request) -> Response:
        asked, client = request.query_params, find_asking(request)
        if client is None:
            return HTMLResponse("<h1>This program is not known here.</h1>", 400)
        said = dict(parse_qsl((await request.body()).decode()))
        back = {"state": asked.get("state", ""), "iss": issuer}
        if said.get("allow") != "yes":
            back |= {"error": "access_denied", "error_description": "You did not want to say who you are."}
        else:
            code = secrets.token_urlsafe(24)
            kept = {
                "client": client["id"],
                "redirect": asked["redirect_uri"],
                "challenge": asked["code_challenge"],
                "nonce": asked.get("nonce"),
                "sub": said["sub"],
                "until": time.time() + CODE_LASTS,
            }
            state.set_setting(f"identity-code:{code}", kept)
            back["code"] = code
        return RedirectResponse(f"{asked['redirect_uri']}?{urlencode(back)}", 303)

    @app.post("/identity/token")
    async def give_word(request: Request, authorization: Annotated[str | None, Header()] = None) -> Response:
        def refuse(error: str, why: str, status: int = 400) -> JSONResponse:
            return JSONResponse({"error": error, "error_description": why}, status, {"Cache-Control": "no-store"})

        kind, _, basic = (authorization or "").partition(" ")
        id, _, secret = base64.b64decode(basic).decode().partition(":") if kind.lower() == "basic" else ("", "", "")
        client = find_client(unquote(id))
        if client is None or not hmac.compare_digest(client["secret"].encode(), unquote(secret).encode()):
            return refuse("invalid_client", "This program is not known here.", 401)
        said = dict(parse_qsl((await request.body()).decode()))
        key = f"identity-code:{said.get('code')}"
        kept = state.get_setting(key, None)
        state.set_setting(key, None)
        digest = hashlib.sha256(said.get("code_verifier", "").encode()).digest()
        proof = base64.urlsafe_b64encode(digest).rstrip(b"=").decode()
        if (
            kept is None
            or kept["client"] != client["id"]
            or kept["until"] < time.time()
            or kept["redirect"] != said.get("redirect_uri")
            or not hmac.compare_digest(kept["challenge"], proof)
        ):
            return refuse("invalid_grant", "The code is not for this, or is used up.")
        about = state.get_setting(f"colleague:{kept['sub']}", {})
        token = f"idt_{secrets.token_urlsafe(18)}"
        state.set_setting(f"identity-token:{token}", kept["sub"])
        now = int(time.time())
        claims = {
            "iss": issuer,
            "aud": client["id"],
            "iat": now,
            "exp": now + WORD_LASTS,
            "nonce": kept["nonce"],
            **about,
        }
        header = {"alg": "RS256", "kid": _get_key().kid}
        word = jws.serialize_compact(header, json.dumps(claims).encode(), _get_key(), algorithms=["RS256"])
        body = {"access_token": token, "token_type": "Bearer", "expires_in": 300, "id_token": word}
        return JSONResponse(body, headers={"Cache-Control": "no-store"})

    @app.get("/identity/about")
    async def tell_about(authorization: Annotated[str | None, Header()] = None) -> Response:
        sub = state.get_setting(f"identity-token:{(authorization or '').removeprefix('Bearer ')}", None)
        about = state.get_setting(f"colleague:{sub}", None)
        return JSONResponse(about, 200) if about else JSONResponse({"error": "invalid_token"}, 401)

    @app.post("/control/identity-client")
    async def add_identity_client(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """A program that may ask: id, secret, name, redirects."""
        state.set_setting(f"identity-client:{body['id']}", body)
        return {"id": body["id"]}

    @app.post("/control/colleagues")
    async def set_colleague(body: Annotated[dict[str, Any], Body()]) -> dict[str, Any]:
        """Somebody it knows: sub, name, email, email_verified, groups."""
        state.set_setting(f"colleague:{body['sub']}", body)
        return {"sub": body["sub"]}
