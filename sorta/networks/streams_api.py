"""The ways shared by networks that speak ActivityStreams over one kind of HTTP API.

Delivery: POST <api>/objects with a bearer token and an Idempotency-Key; files first, each POST <api>/media with its
bytes as they are and a key of its own, and are then named in the note's `attachment`. Acts: POST <api>/acts, an activity (Like,
Ignore for hiding, Delete, Announce for reposting, Block, or Undo of one).  Backfill: GET <api>/activities,
an OrderedCollectionPage in the order things happened, whose `next` leads on.
An adapter for such a network derives from `StreamsNetwork`; others implement core.ports.Network themselves.
"""

from datetime import UTC, datetime
from email.utils import parsedate_to_datetime
from typing import Any
from urllib.parse import quote

import httpx

from sorta.core.attachments import is_image
from sorta.core.ports import (
    Abilities,
    AccountRef,
    BackfillPage,
    Delivered,
    Echo,
    MessageSeen,
    Moderation,
    Outcome,
    OutgoingAct,
    OutgoingFile,
    OutgoingReply,
    Postponed,
    Refused,
    Seen,
    Silent,
    TokenExpired,
    Unreachable,
)
from sorta.networks import activitystreams
from sorta.networks.outgoing import Outgoing, read_object

LONGEST_PAUSE = 24 * 3600
#: What a network says that there is more than this is not believed.
MOST_COUNTED = 10**9
#: Each act as an activity of the vocabulary, and whether it is done to the person; the opposite is its Undo.
_ACTIVITIES = {
    Moderation.LIKE: ("Like", False, False),
    Moderation.UNLIKE: ("Like", False, True),
    Moderation.HIDE: ("Ignore", False, False),
    Moderation.SHOW: ("Ignore", False, True),
    Moderation.DELETE: ("Delete", False, False),
    Moderation.REPOST: ("Announce", False, False),
    Moderation.BLOCK: ("Block", True, False),
    Moderation.UNBLOCK: ("Block", True, True),
}


class StreamsNetwork:
    """Reads, sends and fetches for one network; `client` is shared by all of them."""

    abilities: Abilities

    def __init__(self, client: Outgoing) -> None:
        self._client = client

    def read(self, activity: Any, account: AccountRef) -> Seen:
        """See core.ports.Network. What came from our own client is told back with its key: an echo."""
        if isinstance(activity, dict):
            thing = activitystreams.get_object(activity.get("object"))
            if thing.get("clientKey"):
                return Echo(external_id=activitystreams.get_id(thing) or "")
        return activitystreams.read_activity(activity, account)

    async def send(self, account: AccountRef, reply: OutgoingReply, key: str) -> Outcome:
        """See core.ports.Network."""
        note: dict[str, Any] = {
            "@context": activitystreams.CONTEXT,
            "type": "Note",
            "content": reply.body,
            "mediaType": "text/plain",
            "inReplyTo": reply.target,
            "attributedTo": account.external_id,
            "to": [reply.to, activitystreams.EVERYBODY] if reply.public else [reply.to],
        }
        attached = []
        for n, file in enumerate(reply.files):
            outcome = await self._upload(account, file, f"{key}-{n}")
            if not isinstance(outcome, Delivered):
                return outcome
            kind = "Image" if is_image(file.media_type) else "Document"
            one = {"type": kind, "mediaType": file.media_type, "name": file.name, "url": outcome.external_id}
            # What it shows, in words (Activity Vocabulary: `summary`).
            attached.append({**one, "summary": file.description} if file.description else one)
        if attached:
            note["attachment"] = attached
        return await self._post(account, "objects", note, key)

    async def _upload(self, account: AccountRef, file: OutgoingFile, key: str) -> Outcome:
        """Leave one file with the network; where it has it is the outcome's `external_id`."""
        headers = {
            "Content-Type": file.media_type,
            "Content-Disposition": f"attachment; filename*=UTF-8''{quote(file.name, safe='')}",
        }
        return await self._send(account, "media", key, headers=headers, content=file.content)

    async def moderate(self, account: AccountRef, act: OutgoingAct, key: str) -> Outcome:
        """See core.ports.Network."""
        kind, is_personal, is_undone = _ACTIVITIES[act.what]
        activity: dict[str, Any] = {
            "type": kind,
            "actor": account.external_id,
            "object": act.person if is_personal else act.target,
        }
        if is_undone:
            activity = {"type": "Undo", "actor": account.external_id, "object": activity}
        return await self._post(account, "acts", {"@context": activitystreams.CONTEXT, **activity}, key)

    async def _post(self, account: AccountRef, where: str, body: dict[str, Any], key: str) -> Outcome:
        return await self._send(account, where, key, headers={}, json=body)

    async def _send(
        self, account: AccountRef, where: str, key: str, *, headers: dict[str, str], **content: Any
    ) -> Outcome:
        headers |= {"Authorization": f"Bearer {account.token}", "Idempotency-Key": key}
        try:
            answer = await self._client.send(
                "POST",
                f"{account.api_url}/{where}",
                base=account.api_url,
                headers=headers,
                patience=account.patience,
                **content,
            )
        except httpx.HTTPError as error:
            # Only a connection that never came about says for sure that nothing has arrived.
            maybe_out = not isinstance(error, httpx.ConnectError | httpx.ConnectTimeout | httpx.PoolTimeout)
            return Postponed(
                reason=f"{self.abilities.name} did not answer ({type(error).__name__}).",
                maybe_out=maybe_out,
                silent=isinstance(error, httpx.TransportError),
            )
        return self._judge(answer)

    def _judge(self, answer: httpx.Response) -> Outcome:
        name, status = self.abilities.name, answer.status_code
        if answer.is_success:
            id = activitystreams.get_id(read_object(answer))
            if id is None:
                return Postponed(reason=f"{name} answered {status} without saying what it made.", maybe_out=True)
            return Delivered(external_id=id)
        said = read_object(answer).get("detail")
        words = said if isinstance(said, str) else f"answered {status}"
        if status == 401:
            return TokenExpired(reason=f"{name} no longer accepts the access token: {words}")
        if status in (408, 409, 425, 429) or status >= 500:
            maybe_out = status == 408 or status >= 500
            return Postponed(reason=f"{name}: {words}", retry_after=_get_retry_after(answer), maybe_out=maybe_out)
        return Refused(reason=f"{name}: {words}")

    async def list_since(self, account: AccountRef, cursor: str | None) -> BackfillPage:
        """See core.ports.Network."""
        return await self._get_page(account, cursor or f"{account.api_url}/activities")

    async def list_range(
        self, account: AccountRef, since: datetime, until: datetime, cursor: str | None
    ) -> BackfillPage:
        """See core.ports.Network. GET <api>/activities?since=..&until=.., by RFC 3339."""
        asked = {"since": since.astimezone(UTC).isoformat(), "until": until.astimezone(UTC).isoformat()}
        url = httpx.URL(f"{account.api_url}/activities", params=asked)
        return await self._get_page(account, cursor or str(url))

    async def search(self, account: AccountRef, words: str, cursor: str | None) -> BackfillPage:
        """See core.ports.Network. GET <api>/search?words=..., the same kind of page."""
        url = httpx.URL(f"{account.api_url}/search", params={"words": words})
        return await self._get_page(account, cursor or str(url))

    def read_found(self, activity: Any, account: AccountRef) -> MessageSeen | None:
        """See core.ports.Network."""
        return activitystreams.read_found(activity, account)

    async def _get_page(self, account: AccountRef, url: str) -> BackfillPage:
        headers = {"Authorization": f"Bearer {account.token}"}
        try:
            answer = await self._client.send(
                "GET", url, base=account.api_url, headers=headers, patience=account.patience
            )
            answer.raise_for_status()
        except httpx.TransportError as error:
            raise Silent(f"{self.abilities.name} did not answer ({type(error).__name__}).") from error
        except httpx.HTTPError as error:
            raise Unreachable(f"{self.abilities.name}: {error}") from error
        page = read_object(answer)
        items = activitystreams.list_values(page.get("orderedItems"))
        following = activitystreams.get_id(page.get("next"))
        # A page that leads on to itself is the last.
        more = bool(items) and following is not None and following != url
        total = page.get("totalItems")
        is_count = isinstance(total, int) and not isinstance(total, bool) and 0 <= total <= MOST_COUNTED
        return BackfillPage(
            activities=tuple(items), cursor=following or url, more=more, total=total if is_count else None
        )


def _get_retry_after(answer: httpx.Response) -> float | None:
    """Seconds, from either form of the header (RFC 9110, 10.2.3); a network that asks for more than a day gets a day."""
    value = answer.headers.get("Retry-After", "").strip()
    if value.isdecimal() and value.isascii():
        return float(min(int(value[:9]), LONGEST_PAUSE))
    if not value:
        return None
    try:
        at = parsedate_to_datetime(value)
        # RFC 5322, 3.3: the zone -0000 says nothing about it; RFC 9110 wants GMT.
        at = at if at.tzinfo is not None else at.replace(tzinfo=UTC)
        return min(max(0.0, (at - datetime.now(UTC)).total_seconds()), float(LONGEST_PAUSE))
    except (ValueError, OverflowError):
        return None
