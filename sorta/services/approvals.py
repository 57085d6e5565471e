"""Replies that wait for consent: proposed, changed, approved, sent back, withdrawn. Used by the API and the worker."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime
from typing import Any

from sorta.core.answers import Extras
from sorta.core.approval import (
    Asked,
    Need,
    fingerprint,
    get_wait_until,
    has_too_few,
    list_open_needs,
    list_to_ask,
    may_consent,
)
from sorta.core.errors import Invalid, NotAllowed, NotFound, TooLate
from sorta.core.events import Changed, Consented, Proposed, SentBack, Withdrawn
from sorta.core.permissions import Permission
from sorta.core.texts import list_links
from sorta.services.alerts import add_alerts
from sorta.services.answers import EXTRAS, check_may_reply, check_reply, commit_reply, say_sign_off
from sorta.services.attachments import TakenBack, describe_extras, hold, list_described
from sorta.services.consent import find_needs, join_words
from sorta.services.hours import get_promise
from sorta.services.house import House, Scope
from sorta.services.members import check_sight, get_scope_of
from sorta.services.reads import Reads
from sorta.services.roles import list_held_roles
from sorta.services.trail import Ledger, Open, writing
from sorta.store import accounts, desk, links, people
from sorta.store import approvals as store
from sorta.store.db import Tx
from sorta.store.live import tell

LONGEST_REASON = 1000


def read_needs(values: Sequence[Mapping[str, Any]]) -> tuple[Need, ...]:
    """Needs as a proposal's row holds them."""
    return tuple(
        Need(policy=v["policy"], name=v["name"], count=v["count"], members=tuple(v["members"]), words=tuple(v["words"]))
        for v in values
    )


def _list_consents(row: Mapping[str, Any], targets: Mapping[str, str]) -> list[int]:
    """Who has consented to what would go out now. Consent is given to words, links, files, account and audience as they
    are; to anything else it is none, whatever changed and how."""
    now = _fingerprint(row, targets)
    return [c["member"] for c in row["consents"] if c.get("of") == now]


def _fingerprint(row: Mapping[str, Any], targets: Mapping[str, str]) -> str:
    extras = row["extras"]
    return fingerprint(
        text=row["body"],
        links={name: targets.get(name, "") for name in list_links(row["body"])},
        files=extras.get("attachments") or (),
        account=extras.get("account"),
        public=row["public"],
    )


async def _list_targets(reads: Reads) -> dict[str, str]:
    return {k["name"]: k["target"] for k in await reads.get(links.list_kept)}


async def propose(
    house: House,
    scope: Scope,
    conversation_id: int,
    *,
    public: bool,
    text: str,
    seen_seq: int,
    settle: bool,
    now: datetime,
    extras: Extras = Extras(),
) -> int:
    """Ask for approval of a reply; the proposal's number. The same checks as for sending it hold.

    Raises TooLate when another answer waits already.
    """
    check_may_reply(scope, public=public)
    async with writing(house, scope.workspace_id, now) as ledger:
        tx, conversation = ledger.tx, await ledger.get(conversation_id)
        if conversation.facts.proposal_waiting:
            raise TooLate("An answer waits for approval here already.")
        checked = await check_reply(
            ledger,
            conversation,
            author_id=scope.member_id,
            public=public,
            text=text,
            seen_seq=seen_seq,
            extras=extras,
        )
        needs = await find_needs(
            ledger.reads,
            conversation,
            scope,
            public=public,
            text=join_words(text, checked.body),
            account=extras.account,
        )
        if not needs:
            raise Invalid("This answer needs nobody's approval: it can be sent.", "text")
        await hold(tx, conversation.row, extras.attachments, now)
        given = {
            "conversation_id": conversation_id,
            "author_id": scope.member_id,
            "public": public,
            "body": text.strip(),
            "settle": settle,
            "extras": EXTRAS.dump_python(extras, mode="json"),
            "now": now,
            "seen_seq": conversation.facts.seq + 1,
            "needs": [asdict(need) for need in needs],
        }
        id = await store.add_proposal(tx, given)
        ledger.add(conversation, Proposed(proposal=id, public=public), member_id=scope.member_id)
        await desk.delete_draft(tx, scope.member_id, conversation_id, "public" if public else "private")
        await _ask(ledger, conversation, await _get(tx, id))
    return id


async def _ask(ledger: Ledger, conversation: Open, row: dict[str, Any], *, anew: bool = False) -> int:
    """Ask whoever's turn it is, and keep that in the proposal's row; how many. Those who were asked before are not told
    again. With `anew` nothing else has changed, and nothing is written when it is nobody's turn."""
    house, tx, now = ledger.house, ledger.tx, ledger.now
    asked = [
        Asked(member=a["member"], at=datetime.fromisoformat(a["at"]), until=datetime.fromisoformat(a["until"]))
        for a in row["asked"]
    ]
    chosen = list_to_ask(
        read_needs(row["needs"]),
        _list_consents(row, await _list_targets(ledger.reads)),
        row["author_id"],
        asked=asked,
        away=await store.list_away(tx, now),
        now=now,
    )
    if anew and not chosen:
        return 0
    hours = (await get_promise(house, tx)).hours
    until = get_wait_until(now, conversation.row["due"], await store.get_share(tx), hours)
    row["asked"] = [
        *row["asked"],
        *({"member": m, "at": now.isoformat(), "until": until.isoformat()} for m in chosen),
    ]
    await store.set_proposal(tx, row)
    await add_alerts(
        tx,
        members=sorted(chosen),
        occasion="approval",
        words=f"An answer to {conversation.row['person_name']} waits for your approval.",
        conversation_id=conversation.id,
        key=f"approval:{row['id']}:{len(row['asked'])}",
        now=now,
    )
    await tell(tx, "approvals")
    return len(chosen)


async def ask_next(house: House, workspace_id: int, now: datetime) -> int:
    """Where somebody who was asked is away, or has let their share of the time go by, ask the next; how many were asked.
    Run by the worker's clock."""
    async with house.db.transact(workspace_id) as tx:
        ids = await store.list_to_ask_anew(tx, now)
    count = 0
    for id in ids:
        async with writing(house, workspace_id, now) as ledger:
            row = await store.get_proposal(ledger.tx, id)
            if row is not None and row["state"] == "waiting":
                count += await _ask(ledger, await ledger.get(row["conversation_id"]), row, anew=True)
    return count


async def _get(tx: Tx, id: int) -> dict[str, Any]:
    row = await store.get_proposal(tx, id)
    if row is None:
        raise NotFound("There is no such proposal in this workspace.")
    if row["state"] != "waiting":
        raise TooLate("It waits no more: it was decided meanwhile.")
    return row


async def change(house: House, scope: Scope, id: int, *, text: str, seen_seq: int, now: datetime) -> None:
    """The author writes it anew, or confirms it after they wrote again: consent given so far is void when the words change.

    Raises NotAllowed for anybody else, and what `check_reply` raises.
    """
    async with writing(house, scope.workspace_id, now) as ledger:
        row = await _get(ledger.tx, id)
        if row["author_id"] != scope.member_id:
            raise NotAllowed("Only its author can change it so. An approver changes it while approving.")
        conversation = await ledger.get(row["conversation_id"])
        extras = EXTRAS.validate_python(row["extras"])
        checked = await check_reply(
            ledger,
            conversation,
            author_id=scope.member_id,
            public=row["public"],
            text=text,
            seen_seq=seen_seq,
            extras=extras,
        )
        if text.strip() != row["body"]:
            needs = await find_needs(
                ledger.reads,
                conversation,
                scope,
                public=row["public"],
                text=join_words(text, checked.body),
                account=extras.account,
            )
            # Consent that is void is asked for anew, of everybody again.
            row.update(body=text.strip(), consents=[], asked=[], before_edit=None, edited_by=None)
            row["needs"] = [asdict(need) for need in needs] or row["needs"]
        event = ledger.add(conversation, Changed(proposal=id), member_id=scope.member_id)
        row["seen_seq"] = event.seq
        await _ask(ledger, conversation, row)


async def approve(house: House, scope: Scope, id: int, *, seen_seq: int, text: str | None, now: datetime) -> int | None:
    """Consent to a proposal, as it stands or with edits. When that was the last consent it goes out once the time for
    calling it back is over: the number of that act in the trail, else None.

    `seen_seq` is the newest number of the trail that the approver has seen: raises MovedOn when they have written
    again since, NotAllowed for its author and for those nobody asks, TooLate when it was decided meanwhile.
    """
    async with writing(house, scope.workspace_id, now) as ledger:
        tx = ledger.tx
        row = await _get(tx, id)
        conversation = await ledger.get(row["conversation_id"])
        targets = await _list_targets(ledger.reads)
        needs, consents = read_needs(row["needs"]), _list_consents(row, targets)
        # Who may is asked now, not when the answer was proposed.
        scope.check(Permission.APPROVE)
        if not may_consent(needs, consents, row["author_id"], scope.member_id):
            raise NotAllowed("This answer does not wait for you.")
        said = row["body"] if text is None else text.strip()
        if said != row["body"]:
            row["before_edit"] = row["before_edit"] or row["body"]
            row.update(body=said, edited_by=scope.member_id, consents=[], asked=[])
        author = await get_scope_of(ledger.reads, row["author_id"])
        if not author.role.grants & {Permission.REPLY_PUBLICLY if row["public"] else Permission.REPLY_PRIVATELY}:
            raise NotAllowed(f"{author.name} may not answer here any more: write it yourself, or send it back.")
        await check_sight(tx, author, conversation)
        extras = EXTRAS.validate_python(row["extras"])
        checked = await check_reply(
            ledger,
            conversation,
            author_id=row["author_id"],
            public=row["public"],
            text=said,
            seen_seq=seen_seq,
            extras=extras,
        )
        # Policies judge the very words that go out, as they stand now; what was needed before is needed still.
        judged = await find_needs(
            ledger.reads,
            conversation,
            author,
            public=row["public"],
            text=join_words(said, checked.body),
            account=extras.account,
        )
        needs = _add_needs(needs, judged)
        row["needs"] = [asdict(need) for need in needs]
        # Whoever has lost the permission since has consented to nothing that goes out.
        able = await _list_able(ledger.reads, conversation.row["account_id"])
        row["consents"] = [
            *(c for c in row["consents"] if c["member"] in able),
            {"member": scope.member_id, "at": now.isoformat(), "of": _fingerprint(row, targets)},
        ]
        ledger.add(
            conversation,
            Consented(proposal=id, edited=row["edited_by"] == scope.member_id),
            member_id=scope.member_id,
        )
        left = list_open_needs(needs, _list_consents(row, targets), row["author_id"])
        if left:
            row["seen_seq"] = conversation.facts.seq
            await _ask(ledger, conversation, row)
            return None
        seq = await commit_reply(
            ledger,
            conversation,
            checked,
            author_id=row["author_id"],
            settle=row["settle"],
            extras=extras,
            leaves_at=now + house.undo_for,
            proposal=id,
            approved_by=scope.member_id,
        )
        row.update(state="approved", decided_by=scope.member_id, decided_at=now)
        await store.set_proposal(tx, row)
        changed = ", with a change" if row["edited_by"] else ""
        await _tell_author(tx, conversation, row, f"Your answer to {conversation.row['person_name']} was approved{changed}.", now)  # fmt: skip
    return seq


async def wait_again(ledger: Ledger, scope: Scope, conversation: Open, id: int) -> None:
    """An approved answer was called back: it waits again, without the consent of whoever called it back, in the words of
    before when these were theirs."""
    row = await store.get_proposal(ledger.tx, id)
    if row is None:
        raise NotFound("There is no such proposal in this workspace.")
    row["consents"] = [c for c in row["consents"] if c["member"] not in (scope.member_id, row["decided_by"])]
    if row["edited_by"] is not None and row["edited_by"] == row["decided_by"]:
        row.update(body=row["before_edit"], before_edit=None, edited_by=None)
    row.update(state="waiting", decided_by=None, decided_at=None, asked=[], seen_seq=conversation.facts.seq)
    await _ask(ledger, conversation, row)


async def keep_words(tx: Tx, row: Mapping[str, Any], *, shared: bool, now: datetime) -> None:
    """The words of an answer that does not go (a proposal's row, or a scheduled one's) as its author's draft, with its files and account;
    one that is there stays."""
    mode = "public" if row["public"] else "private"
    author, conversation = row["author_id"], row["conversation_id"]
    if await desk.get_draft(tx, author, conversation, mode) is None:
        await desk.set_draft(
            tx,
            author,
            conversation,
            mode=mode,
            body=row["body"],
            shared=shared,
            attachments=list(row["extras"].get("attachments") or []),
            account=row["extras"].get("account"),
            now=now,
        )


async def withdraw_overtaken(ledger: Ledger, conversation: Open, why: str) -> None:
    """The conversation is taken off the desk: an answer that waits for approval is withdrawn. Its author has the words
    back as a draft, and hears of it with those who were asked. `why` is the first half of a sentence."""
    if not conversation.facts.proposal_waiting:
        return
    tx = ledger.tx
    latest = await store.get_latest(tx, conversation.id)
    row = None if latest is None else await store.get_proposal(tx, latest["id"])
    if row is None or row["state"] != "waiting":
        return
    ledger.add(conversation, Withdrawn(proposal=row["id"], reason=why))
    row.update(state="withdrawn", reason=why, decided_at=ledger.now)
    await store.set_proposal(tx, row)
    await keep_words(tx, row, shared=False, now=ledger.now)
    name = conversation.row["person_name"]
    asked = [a["member"] for a in row["asked"]]
    for members, words in (
        ([row["author_id"]], f"Your answer to {name} was withdrawn: {why}. Its words are kept as your draft there."),
        (asked, f"The answer to {name} needs no approval any more: {why}."),
    ):
        await add_alerts(
            tx,
            members=members,
            occasion="decided",
            words=words,
            conversation_id=conversation.id,
            key=f"withdrawn:{row['id']}",
            now=ledger.now,
        )
    await tell(tx, "approvals")


async def _list_able(reads: Reads, account: int) -> frozenset[int]:
    """The members who may approve now what is said by an account."""
    held = await list_held_roles(reads, (account,))
    return frozenset(m for m, role in held.items() if Permission.APPROVE in role.grants)


def _add_needs(before: Sequence[Need], judged: Sequence[Need]) -> tuple[Need, ...]:
    """The needs there were, as the policies have them now where they still match, and those that have come up since."""
    now = {(need.policy, need.name): need for need in judged}
    kept = [now.pop((need.policy, need.name), need) for need in before]
    return (*kept, *now.values())


async def _tell_author(tx: Tx, conversation: Open, row: Mapping[str, Any], words: str, now: datetime) -> None:
    await add_alerts(
        tx,
        members=[row["author_id"]],
        occasion="decided",
        words=words,
        conversation_id=conversation.id,
        key=f"decided:{row['id']}",
        now=now,
    )
    await tell(tx, "approvals")


async def send_back(house: House, scope: Scope, id: int, *, reason: str, now: datetime) -> None:
    """Back to its author, with the reason. Raises Invalid without one, NotAllowed for those nobody asks."""
    said = reason.strip()
    if not 1 <= len(said) <= LONGEST_REASON:
        raise Invalid(f"Say why, in up to {LONGEST_REASON} characters.", "reason")
    async with writing(house, scope.workspace_id, now) as ledger:
        row = await _get(ledger.tx, id)
        scope.check(Permission.APPROVE)
        consents = _list_consents(row, await _list_targets(ledger.reads))
        if not may_consent(read_needs(row["needs"]), consents, row["author_id"], scope.member_id):
            raise NotAllowed("This answer does not wait for you.")
        await _close(ledger, scope, row, "sent_back", said)


async def withdraw(house: House, scope: Scope, id: int, now: datetime) -> TakenBack:
    """Its author takes it back; what it said, so that it can be written on. Raises NotAllowed for anybody else."""
    async with writing(house, scope.workspace_id, now) as ledger:
        row = await _get(ledger.tx, id)
        if row["author_id"] != scope.member_id:
            raise NotAllowed("Only its author can withdraw it.")
        await _close(ledger, scope, row, "withdrawn", None)
        files = await describe_extras(ledger.tx, row["extras"])
        return TakenBack(text=row["body"], attachments=files)


async def _close(ledger: Ledger, scope: Scope, row: dict[str, Any], state: str, reason: str | None) -> None:
    tx, now = ledger.tx, ledger.now
    conversation = await ledger.get(row["conversation_id"])
    what = Withdrawn(proposal=row["id"]) if reason is None else SentBack(proposal=row["id"], reason=reason)
    ledger.add(conversation, what, member_id=scope.member_id)
    row.update(state=state, reason=reason, decided_by=scope.member_id, decided_at=now)
    await store.set_proposal(tx, row)
    if state == "sent_back":
        words = f"Your answer to {conversation.row['person_name']} came back: {reason}"
        await _tell_author(tx, conversation, row, words, now)
    else:
        await tell(tx, "approvals")


async def list_approvals(house: House, scope: Scope) -> list[dict[str, Any]]:
    """What waits for consent, soonest due first; `mine` when it waits for the member, `overtaken` when they have
    written again since it was looked at."""
    async with house.db.transact(scope.workspace_id) as tx:
        rows = await store.list_waiting(tx)
        ids = [id for row in rows for id in row["extras"].get("attachments") or []]
        files = {file["id"]: file for file in await list_described(tx, ids)}
        targets = await _list_targets(Reads(tx))
        connected = await accounts.list_accounts(tx)
        members = await people.list_members(tx)
    return [_describe(row, scope, files, targets, connected, members) for row in rows]


def _describe(
    row: Mapping[str, Any],
    scope: Scope,
    files: Mapping[int, dict[str, Any]],
    targets: Mapping[str, str],
    connected: Sequence[accounts.Account],
    members: Sequence[people.MemberRow],
) -> dict[str, Any]:
    needs, consents = read_needs(row["needs"]), _list_consents(row, targets)
    left = list_open_needs(needs, consents, row["author_id"])
    written = row["extras"].get("written")
    answers_from = row["extras"].get("account") or row["account_id"]
    sender = next((a for a in connected if a.id == answers_from), None)
    return {
        **row,
        "mine": Permission.APPROVE in scope.role.grants
        and may_consent(needs, consents, row["author_id"], scope.member_id),
        "too_few": [need.name for need in left if has_too_few(need)],
        "waits_on": sorted({m for need in left for m in need.members} - set(consents)),
        "overtaken": row["last_inbound_seq"] > row["seen_seq"],
        "answers_from": row["extras"].get("account"),
        # Of an account that one does not see nothing is told.
        "sign_off": say_sign_off(sender, members, row["author_id"]) if sender is not None else "",
        "written": written and {"text": written[0], "language": written[1]},
        "attachments": [files[id] for id in row["extras"].get("attachments") or [] if id in files],
    }


async def get_latest_proposal(
    tx: Tx,
    scope: Scope,
    conversation: Mapping[str, Any],
    connected: Sequence[accounts.Account],
    members: Sequence[people.MemberRow],
) -> dict[str, Any] | None:
    """The latest proposal of a conversation while it waits, or when it came back; else None. The workspace's accounts and
    members are known to whoever shows it."""
    row = await store.get_latest(tx, conversation["id"])
    if row is None or row["state"] not in ("waiting", "sent_back"):
        return None
    files = {file["id"]: file for file in await describe_extras(tx, row["extras"])}
    targets = await _list_targets(Reads(tx))
    more = {key: conversation[key] for key in ("last_inbound_seq", "account_id")}
    return _describe({**row, **more}, scope, files, targets, connected, members)


async def count_mine(tx: Tx, scope: Scope) -> int:
    """How many answers wait for the member's consent."""
    rows = await store.list_needed(tx)
    if Permission.APPROVE not in scope.role.grants:
        return 0
    targets = await _list_targets(Reads(tx))
    return sum(
        may_consent(read_needs(r["needs"]), _list_consents(r, targets), r["author_id"], scope.member_id) for r in rows
    )
