"""Every error as problem details (RFC 9457): a stable type, a title a person understands, a field if any."""

from collections.abc import Mapping, Sequence
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from sorta.core import errors
from sorta.services.house import Conflict, Unavailable, Unstorable

log = structlog.get_logger()


class Problem(BaseModel):
    """RFC 9457 members, and `field` (what to correct), `new_seqs` (what the author has not seen), `reference` (where the
    log has it)."""

    type: str
    title: str
    status: int
    detail: str
    instance: str
    field: str | None = None
    new_seqs: list[int] | None = None
    retry_after: int | None = None
    reference: str | None = None


_KINDS: dict[type[errors.SortaError], tuple[int, str, str]] = {
    errors.NotFound: (404, "not-found", "Not found"),
    errors.NotAllowed: (403, "not-allowed", "Not allowed"),
    errors.NotOurPage: (403, "not-our-page", "Not from this page"),
    errors.AnotherMember: (409, "another-member", "Somebody else is signed in"),
    errors.SignInRefused: (401, "sign-in", "Sign in"),
    errors.SecondStep: (401, "second-step", "The second step"),
    errors.SecondNeeded: (403, "second-needed", "A second step is needed"),
    errors.TooManyTries: (429, "too-many-tries", "Too many tries"),
    errors.Busy: (503, "busy", "Too much at once"),
    errors.NoRoom: (507, "no-room", "No room for it"),
    errors.Invalid: (422, "invalid", "That cannot be used"),
    errors.AskFirst: (409, "ask-first", "Is that meant?"),
    errors.Impossible: (422, "impossible", "That cannot be done here"),
    errors.MovedOn: (409, "moved-on", "The conversation moved on"),
    errors.ChangedElsewhere: (409, "changed-elsewhere", "Changed meanwhile"),
    errors.NeedsApproval: (409, "needs-approval", "Approval is needed"),
    errors.TooLate: (409, "too-late", "Too late"),
    errors.Unreadable: (422, "unreadable", "That cannot be read"),
}


def make_problem(
    request: Request,
    status: int,
    kind: str,
    title: str,
    detail: str,
    headers: Mapping[str, str] | None = None,
    **more: Any,
) -> JSONResponse:
    """A problem as `application/problem+json`."""
    reference = structlog.contextvars.get_contextvars().get("request_id")
    body = Problem(
        reference=reference,
        type=f"/problems/{kind}",
        title=title,
        status=status,
        detail=detail,
        instance=request.url.path,
        **more,
    )
    return JSONResponse(body.model_dump(exclude_none=True), status, headers, media_type="application/problem+json")


def make_unforeseen(request: Request, error: Exception) -> JSONResponse:
    """What is said of a mistake of ours: where the log has it, and nothing of what it was."""
    log.error("unforeseen error", exc_info=error)
    detail = "Something went wrong here, and nothing was changed."
    return make_problem(request, 500, "unforeseen", "Something went wrong", detail)


def _say(error: dict[str, Any]) -> str:
    match error["type"]:
        case "extra_forbidden" | "unexpected_keyword_argument":
            return "nothing of that name stands here. Is it spelt right?"
        case "union_tag_invalid":
            return f"there is no ‘{str(error['ctx']['tag'])[:40]}’."
    return str(error["msg"])


def pick_error(found: Sequence[Any]) -> Any:
    """The error that matters: where one of several shapes was meant, that of the shape whose `type` was given."""
    others = {tuple(e["loc"][:-1]) for e in found if e["loc"][-1] == "type" and e["type"] == "literal_error"}
    meant = [e for e in found if not any(tuple(e["loc"][: len(o)]) == o for o in others)]
    return (meant or found)[0]


def add_handlers(app: FastAPI) -> None:
    """Map the trade's refusals, the framework's, and the unforeseen."""

    @app.exception_handler(errors.SortaError)
    async def on_refusal(request: Request, error: errors.SortaError) -> JSONResponse:
        status, kind, title = _KINDS[type(error)]
        more: dict[str, Any] = {}
        headers = {}
        if isinstance(error, errors.Invalid):
            more["field"] = error.field
        if isinstance(error, errors.MovedOn):
            more["new_seqs"] = list(error.new_seqs)
        if isinstance(error, errors.TooManyTries | errors.Busy):
            more["retry_after"] = error.retry_after
            headers["Retry-After"] = str(error.retry_after)
        return make_problem(request, status, kind, title, error.message, headers, **more)

    @app.exception_handler(RequestValidationError)
    async def on_invalid(request: Request, error: RequestValidationError) -> JSONResponse:
        first = pick_error(error.errors())
        field = ".".join(str(part) for part in first["loc"][1:]) or str(first["loc"][0])
        return make_problem(request, 422, "invalid", "That cannot be used", f"{field}: {_say(first)}", field=field)

    @app.exception_handler(HTTPException)
    async def on_http(request: Request, error: HTTPException) -> JSONResponse:
        title = str(error.detail)
        return make_problem(request, error.status_code, "http", title, title, error.headers)

    @app.exception_handler(Unavailable)
    async def on_unavailable(request: Request, error: Unavailable) -> JSONResponse:
        log.error("database unavailable", error=str(error))
        detail = "Sorta cannot reach its database. Nothing was changed; try again in a moment."
        return make_problem(request, 503, "unavailable", "Not available just now", detail)

    @app.exception_handler(Unstorable)
    async def on_unstorable(request: Request, error: Unstorable) -> JSONResponse:
        detail = "One of the values cannot be kept or looked for: a number is too large, or a text has characters that no text has."
        return make_problem(request, 422, "invalid", "That cannot be used", detail)

    @app.exception_handler(Conflict)
    async def on_conflict(request: Request, error: Conflict) -> JSONResponse:
        detail = "Somebody else changed the same thing at the same moment. Nothing was changed here; try again."
        return make_problem(request, 409, "conflict", "Changed at the same moment", detail)
