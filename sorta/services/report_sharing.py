"""Reports for those who have no account: by a link that ends, can be taken back and is counted, and by mail at their times.

What leaves is what its maker may see and export when it leaves: who may no longer has their links lead nowhere. Used by the API and
duties.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Any

from sorta.core.advice import check_address, check_allowed
from sorta.core.errors import Busy, Impossible, Invalid, NotAllowed, NotFound
from sorta.core.periods import Against, Named
from sorta.core.permissions import HeldRole, Permission
from sorta.core.ports import Letter, LetterRefused
from sorta.core.retry import GiveUp, TryAgain
from sorta.core.security import Happening
from sorta.core.sharing import MOST_RECIPIENTS, Mailing, check_days, check_parts
from sorta.core.waits import Counting
from sorta.services import looks, report_export, report_page, reports
from sorta.services.house import House, Scope, seen_by
from sorta.services.members import get_scope_of, get_zone
from sorta.services.reads import Reads
from sorta.services.reports import LONGEST_NAME, Ask
from sorta.services.roles import list_held_roles
from sorta.services.sealing import REPORT_TOKEN, seal_row
from sorta.services.security_log import note
from sorta.services.sending import attempt
from sorta.services.tokens import hash_token, make_token
from sorta.store import advice, outgoing, people
from sorta.store import sharing as store
from sorta.store.db import Tx

MOST_SHARED = 50
#: So often a link is opened in a minute; more is a program's doing.
MOST_A_MINUTE = 30
#: What sharing takes, when it is done and whenever something of it leaves.
_NEEDED = (Permission.SEE_REPORTS, Permission.EXPORT)
_GONE = "This link leads nowhere (any more). Ask whoever gave it to you for a new one."
#: Nobody else sends a letter while it is under way. One that could not be sent for so long is given up: the next one is newer.
LEASE = timedelta(minutes=2)
_AT_ONCE = 20


@dataclass(frozen=True, kw_only=True)
class NewShare:
    """What is shared: a report under a name, its parts, for how many days, and to whom it is mailed when, if at all."""

    name: str
    ask: Ask
    parts: Sequence[str]
    days: int
    mail_to: Sequence[str] = ()
    mailing: Mailing | None = None


def dump_ask(ask: Ask) -> dict[str, Any]:
    """What a report is about, as it is kept."""
    return {
        "period": ask.period.value,
        "since": ask.since and ask.since.isoformat(),
        "until": ask.until and ask.until.isoformat(),
        "against": ask.against.value,
        "clock": ask.clock.value,
        "filters": dict(ask.filters),
    }


def read_ask(kept: Mapping[str, Any]) -> Ask:
    """The same from what is kept."""
    since, until = (kept[name] and date.fromisoformat(kept[name]) for name in ("since", "until"))
    return Ask(
        period=Named(kept["period"]),
        since=since,
        until=until,
        against=Against(kept["against"]),
        clock=Counting(kept["clock"]),
        filters=kept["filters"],
    )


def may_share(role: HeldRole) -> bool:
    """Whether somebody of this role may share a report, and see what becomes of those that are shared."""
    return role.grants.issuperset(_NEEDED)


def _check_may_share(scope: Scope) -> None:
    for permission in _NEEDED:
        scope.check(permission)


async def add_share(house: House, scope: Scope, new: NewShare, now: datetime) -> int:
    """Share a report; its number. Mail goes to members, and to addresses at the mail domains that Setup lists. Raises Invalid,
    NotAllowed, Impossible."""
    _check_may_share(scope)
    name = " ".join(new.name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise Invalid(f"A report has a name of 1 to {LONGEST_NAME} characters.", "name")
    parts, days = check_parts(new.parts), check_days(new.days)
    to = list(dict.fromkeys(check_address(address) for address in new.mail_to))
    if (new.mailing is None) != (not to):
        raise Invalid("Say to whom it is mailed and when, or neither.", "mail_to")
    if len(to) > MOST_RECIPIENTS:
        raise Invalid(f"A report is mailed to {MOST_RECIPIENTS} addresses at most.", "mail_to")
    if to and house.post is None:
        raise Impossible("This installation sends no mail.")
    token = make_token()
    async with house.db.transact(scope.workspace_id) as tx:
        if await store.count_reports(tx, now) >= MOST_SHARED:
            raise Invalid(f"{MOST_SHARED} reports are shared at once at most. Take one back first.", "name")
        await _check_recipients(tx, to)
        values = {
            "name": name,
            "ask": dump_ask(new.ask),
            "parts": parts,
            "token": token,
            "token_hash": hash_token(token),
            "member_id": scope.member_id,
            "now": now,
            "expires_at": now + timedelta(days=days),
            "mail_to": to,
            "mail_every": new.mailing and new.mailing.every,
            "mail_day": new.mailing and new.mailing.day,
            "mail_hour": new.mailing and new.mailing.hour,
            "mail_next_at": new.mailing and new.mailing.get_next(now, scope.zone),
        }
        id = await store.add_report(tx, seal_row(house, scope.workspace_id, "shared_report", values))
        shown = ", ".join(["figures", *parts])
        mailed = f"; mailed to {', '.join(to)}" if to else ""
        await note(tx, scope, Happening.SHARED, f"{name}: {shown}, for {days} days{mailed}", report=id)
    return id


async def _check_recipients(tx: Tx, to: Sequence[str]) -> None:
    members = set(await store.list_addresses(tx))
    domains = await advice.list_domains(tx)
    for address in to:
        if address.lower() not in members:
            try:
                check_allowed(address, domains)
            except Invalid as error:
                raise Invalid(error.message, "mail_to") from error


async def list_shares(house: House, scope: Scope, now: datetime) -> list[dict[str, Any]]:
    """The shared reports with their links, the newest first. Raises NotAllowed."""
    _check_may_share(scope)
    async with house.db.transact(scope.workspace_id) as tx:
        rows = [
            row
            for row in await store.list_reports(tx)
            # A link shows what its maker sees: who is limited gets none of another's to see.
            if not scope.limited or row["made_by"] == scope.member_id
        ]
        roles = await list_held_roles(Reads(tx))
    return [
        {
            **row,
            "address": _make_address(house, house.keys.open(REPORT_TOKEN, scope.workspace_id, row["token"])),
            "is_over": row["revoked_at"] is not None or row["expires_at"] <= now,
            "may_still": row["made_by"] in roles and may_share(roles[row["made_by"]]),
        }
        for row in rows
    ]


def _make_address(house: House, token: str) -> str:
    return f"{house.address}/r/{token}"


async def revoke_share(house: House, scope: Scope, id: int, now: datetime) -> None:
    """Take a link back: it leads nowhere, and nothing more is mailed. Raises NotFound, NotAllowed."""
    _check_may_share(scope)
    async with house.db.transact(scope.workspace_id) as tx:
        name = await store.revoke_report(tx, id, now)
        if name is None:
            raise NotFound("There is no such shared report, or it was taken back already.")
        await note(tx, scope, Happening.SHARED_NO_MORE, name, report=id)


async def open_share(house: House, token: str, now: datetime) -> str:
    """The page that a link leads to, its opening counted. Raises NotFound, the same for whatever is wrong with it, and Busy when it
    is opened too often."""
    async with house.db.connect() as conn:
        found = await store.find_report(conn, hash_token(token))
    if found is None:
        raise NotFound(_GONE)
    workspace_id = found["workspace_id"]
    async with house.db.transact(workspace_id) as tx:
        if (row := await store.get_report(tx, found["id"], now)) is None:
            raise NotFound(_GONE)
        scope = await _find_maker(tx, row["made_by"])
        if scope is None:
            raise NotFound(_GONE)
        if not await store.count_opening(tx, found["id"], now, MOST_A_MINUTE):
            raise Busy("This report is opened very often just now. Try again in a minute.", 60)
    with seen_by(scope.seer):
        return await _render(house, scope, row, now, link=None)


async def _find_maker(tx: Tx, member_id: int) -> Scope | None:
    """Who made it, as they stand in the workspace now; None of somebody who may not share any more."""
    try:
        scope = await get_scope_of(Reads(tx), member_id)
        _check_may_share(scope)
    except NotAllowed:
        return None
    return scope


async def _get_name(tx: Tx) -> str:
    row = await people.get_workspace(tx)
    assert row is not None
    return str(row["name"])


async def _render(house: House, scope: Scope, row: Mapping[str, Any], now: datetime, *, link: str | None) -> str:
    ask = read_ask(row["ask"])
    report = await reports.get_report(house, scope, ask, now)
    async with house.db.transact(scope.workspace_id) as tx:
        names = await report_export.read_names(tx)
        about = await people.get_workspace(tx)
        assert about is not None
        seen_as = await looks.get_looks(tx, about["colour"])

    def render() -> str:
        return report_page.render(
            name=row["name"],
            workspace=str(about["name"]),
            looks=seen_as,
            report={**report, "zone": scope.zone},
            ask=ask,
            parts=row["parts"],
            names=names,
            now=now,
            link=link,
            expires=row["expires_at"],
        )

    return await house.reporting.do(render)


async def mail_reports(house: House, workspace_id: int, now: datetime) -> int:
    """Mail the reports whose time has come; how many letters went out. While what goes out is held, they wait."""
    if house.post is None:
        return 0
    async with house.db.transact(workspace_id) as tx:
        if (await outgoing.get_hold(tx))["held_at"] is not None:
            return 0
        zone = await get_zone(tx)
        for row in await store.list_due(tx, now):
            mailing = Mailing(every=row["mail_every"], day=row["mail_day"], hour=row["mail_hour"])
            await store.add_letters(tx, row["id"], row["mail_next_at"], row["mail_to"])
            # What was missed while nothing ran is not sent one after the other: one letter tells how it stands.
            await store.set_next(tx, row["id"], mailing.get_next(now, zone))
    count = 0
    pages: dict[int, tuple[str, str, str] | None] = {}
    for _ in range(_AT_ONCE):
        async with house.db.transact(workspace_id) as tx:
            letter = await store.claim_letter(tx, now, now + LEASE)
        if letter is None:
            break
        count += await _send(house, workspace_id, letter, pages, now)
    return count


async def _make_letter(house: House, workspace_id: int, id: int, now: datetime) -> tuple[str, str, str] | None:
    """Subject, text and page; None when it may not go out any more."""
    async with house.db.transact(workspace_id) as tx:
        row = await store.get_report(tx, id, now)
        scope = None if row is None else await _find_maker(tx, row["made_by"])
        workspace = await _get_name(tx)
    if row is None or scope is None:
        return None
    link = _make_address(house, house.keys.open(REPORT_TOKEN, workspace_id, row["token"]))
    with seen_by(scope.seer):
        page = await _render(house, scope, row, now, link=link)
    return f"{workspace}: {row['name']}", f"{row['name']}, as it stands now:\n\n{link}", page


async def _send(
    house: House,
    workspace_id: int,
    letter: Mapping[str, Any],
    pages: dict[int, tuple[str, str, str] | None],
    now: datetime,
) -> bool:
    """Whether it was taken. `pages` holds what was made for this report already."""
    key = {name: letter[name] for name in ("report_id", "due_at", "to_address")}
    post, report = house.post, letter["report_id"]
    assert post is not None

    async def send() -> None:
        if report not in pages:
            pages[report] = await _make_letter(house, workspace_id, report, now)
        made = pages[report]
        if made is None:
            raise LetterRefused("it was taken back, is over, or its maker may not share reports any more")
        subject, text, page = made
        await post.send(
            Letter(
                key=f"report-{report}-{letter['due_at']:%Y%m%d%H%M}-{hash_token(letter['to_address']).hex()[:12]}",
                to=letter["to_address"],
                to_name="",
                subject=subject,
                text=text,
                html=page,
            )
        )

    ending = await attempt(send, "report", report, tries=letter["tries"], since=letter["due_at"], now=now)
    state, problem, next_at = "sent", None, now
    match ending:
        case TryAgain():
            state, problem, next_at = "waiting", ending.reason, ending.at
        case GiveUp():
            was_refused = ending.is_refused and pages.get(report) is not None
            state, problem = "refused" if was_refused else "dropped", ending.reason
    async with house.db.transact(workspace_id) as tx:
        await store.set_letter(tx, key, state=state, problem=problem and problem[:500], next_at=next_at)
    return state == "sent"
