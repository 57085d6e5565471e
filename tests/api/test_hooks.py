"""Deliveries from networks: signed, fresh, stored before they are answered."""

import json
from datetime import UTC, datetime, timedelta

import pytest
from standardwebhooks import Webhook

from sorta.services.signatures import check_signature
from tests.api.conftest import Client
from tests.world import SECRET, World

pytestmark = [pytest.mark.anyio, pytest.mark.usefixtures("no_blocking")]


def sign(body: str, at: datetime | None = None, secret: str = SECRET) -> dict[str, str]:
    at = at or datetime.now(UTC)
    return {
        "webhook-id": "msg_1",
        "webhook-timestamp": str(int(at.timestamp())),
        "webhook-signature": Webhook(secret).sign("msg_1", at, body),
    }


def hook(world: World, network: str = "commonfold") -> str:
    return f"/hooks/{world.workspace_id}/{world.accounts[network].id}"


async def test_signed_and_fresh_is_taken(anyone: Client, world: World) -> None:
    activity = await world.say("Hello")
    body = json.dumps(activity)
    for _ in range(2):
        answer = await anyone.post(hook(world), content=body, headers=sign(body))
        assert answer.status_code == 202
    found = await world.find(activity["object"]["id"])
    assert await world.kinds(found.conversation_id) == ["arrived"]


async def test_whatever_is_not_is_refused(anyone: Client, world: World) -> None:
    body = json.dumps(await world.say("Hello"))
    stale = datetime.now(UTC) - timedelta(minutes=5, seconds=2)
    cases = [
        (body, {}),
        (body + " ", sign(body)),
        (body, sign(body, stale)),
        (body, sign(body, datetime.now(UTC) + timedelta(minutes=6))),
        (body, sign(body, secret="whsec_" + "QUJD" * 8)),
        (body, {**sign(body), "webhook-signature": "v1,AAAA"}),
        (body, {**sign(body), "webhook-signature": "no comma in it"}),
        (body, {**sign(body), "webhook-signature": "v1,not base64"}),
        (b"\xff\xfe", sign(body)),
    ]
    for content, headers in cases:
        answer = await anyone.post(hook(world), content=content, headers=headers)
        assert answer.status_code == 403, headers
    # An account that is not there looks like a wrong signature.
    wrong = f"/hooks/{world.other_workspace_id}/{world.accounts['commonfold'].id}"
    told = [await anyone.post(path, content=body, headers=sign(body)) for path in ("/hooks/99/99", wrong)]
    told.append(await anyone.post(hook(world), content=body, headers=sign(body, secret="whsec_" + "QUJD" * 8)))
    assert len({(t.status_code, t.json()["title"], t.json()["detail"]) for t in told}) == 1
    assert told[0].status_code == 403


async def test_the_standards_own_vector(world: World, monkeypatch: pytest.MonkeyPatch) -> None:
    """Standard Webhooks specification, test vector (docs/references.md 9), through our own door; several signatures allowed."""
    import standardwebhooks.webhooks as theirs

    class Then(datetime):
        @classmethod
        def now(cls, tz=None):  # type: ignore[override]
            return datetime.fromtimestamp(1614265330, tz)

    monkeypatch.setattr(theirs, "datetime", Then)
    good = "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE="
    headers = {
        "webhook-id": "msg_p5jXN8AQM9LWM0D4loKWxJek",
        "webhook-timestamp": "1614265330",
        "webhook-signature": f"v1,Ceo5qEr07ixe2NLpvHk3FH9bwy/WavXrAFQ/9tdO6mc= v2,x {good}",
    }
    check_signature([SECRET], b'{"test": 2432232314}', headers)


async def test_unreadable_is_answered_well_and_kept_for_the_owner(anyone: Client, mara: Client, world: World) -> None:
    body = '{"type": "Travel", "id": "x"}'
    assert (await anyone.post(hook(world), content=body, headers=sign(body))).status_code == 202
    assert (await mara.get(f"/api/workspaces/{world.workspace_id}/aside")).status_code == 403
    await anyone.enter("noor")
    (kept,) = (await anyone.get(f"/api/workspaces/{world.workspace_id}/aside")).json()
    assert (kept["reason"], kept["body"]) == ("Travel is not a kind of activity that is taken in.", body)
    tried = await anyone.post(f"/api/workspaces/{world.workspace_id}/aside/{kept['id']}/try")
    assert tried.json() == {"reason": kept["reason"]}
