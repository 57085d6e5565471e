"""Rules, team, horizon, alerts and approval through the API: shapes, refusals in words, and who may."""

import json
from typing import Any

import pytest

from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio


@pytest.fixture
async def ilse(anyone: Client) -> Client:
    await anyone.enter("ilse")
    return anyone


def make_rule(*then: dict[str, Any], parts: tuple[dict[str, Any], ...] = ()) -> dict[str, Any]:
    return {"name": "A rule", "when": {"type": "group", "of": "all", "parts": list(parts)}, "then": list(then)}


async def test_a_rule_comes_back_as_it_went_and_its_schema_is_published(mara: Client, here: str) -> None:
    rule = make_rule(
        {"type": "priority", "priority": 3},
        {
            "type": "reply",
            "text": "Hello {first name}",
            "saved": None,
            "answers": True,
            "language": "en",
            "offer": False,
        },
        parts=(
            {"type": "words", "mode": "any", "words": ["cut on", "sick*"]},
            {
                "type": "group",
                "of": "any",
                "parts": [{"type": "ad"}, {"type": "window", "days": [5, 6], "starts": 0, "ends": 60}],
            },
        ),
    )
    id = (await mara.post(f"{here}/rules", json={"body": rule, "on": True})).json()["id"]
    (stored,) = (await mara.get(f"{here}/rules")).json()["rules"]
    assert (stored["id"], stored["version"], stored["switched_on"], stored["body"]) == (id, 1, True, rule)
    schema = (await mara.get("/api/rules.schema.json")).json()
    assert set(schema["$defs"]) >= {"HasWords", "WindowIs", "AnswerWith", "AskConsent"}
    file = (await mara.get(f"{here}/rules/file")).json()
    assert json.loads(json.dumps(file))["rules"] == [{"on": True, **rule}]


@pytest.mark.parametrize(
    ("part", "words"),
    [
        ({"type": "kind", "kinds": ["carrier pigeon"]}, "Input should be 'comment'"),
        ({"type": "words"}, "Field required"),
        ({"type": "rating", "at_most": "many"}, "valid integer"),
        ({"type": "moon phase"}, "there is no ‘moon phase’"),
        ({"type": "words", "words": ["x"], "mod": "all"}, "Is it spelt right?"),
    ],
)
async def test_a_refusal_speaks_of_the_condition_that_was_meant(
    mara: Client, here: str, part: dict[str, Any], words: str
) -> None:
    answer = await mara.post(f"{here}/rules", json={"body": make_rule({"type": "like"}, parts=(part,)), "on": True})
    assert answer.status_code == 422
    problem = answer.json()
    assert words in problem["detail"]
    assert "parts.0" in problem["field"]


async def test_who_may_change_rules_and_who_may_only_look(mara: Client, ilse: Client, here: str) -> None:
    rule = make_rule({"type": "like"})
    assert (await ilse.post(f"{here}/rules", json={"body": rule})).status_code == 403
    assert (await ilse.get(f"{here}/rules")).status_code == 200
    assert (await ilse.put(f"{here}/outgoing/hold", json={"reason": "x"})).status_code == 403
    assert (await ilse.post(f"{here}/trials", json={"body": rule})).status_code == 403
    assert (await mara.post(f"{here}/trials", json={"body": rule, "days": 91})).status_code == 422


async def test_the_horizon_the_team_and_what_waits(mara: Client, here: str, world: World) -> None:
    await world.hear("Hello")
    horizon = (await mara.get(f"{here}/horizon")).json()
    assert len([s for s in horizon["slots"] if s["is_open"]]) >= 32
    assert horizon["open_work"] == 0
    team = (await mara.get(f"{here}/team")).json()
    assert {m["name"] for m in team["members"]} >= {"Mara Person", "Ilse Person"}
    mine = next(m for m in team["members"] if m["name"] == "Mara Person")["member_id"]
    bad = await mara.put(f"{here}/team/members/{mine}", json={"capacity": 5, "shift": ["9-17"] * 6 + ["nonsense"]})
    assert bad.status_code == 422
    assert "no span of hours" in bad.json()["detail"]
    assert (await mara.put(f"{here}/team/members/{mine}", json={"capacity": 5, "languages": ["ES"]})).status_code == 204
    after = (await mara.get(f"{here}/team")).json()["members"]
    assert next(m for m in after if m["member_id"] == mine)["languages"] == ["es"]


async def test_what_needs_approval_says_so_and_is_asked_for(
    mara: Client, ilse: Client, here: str, world: World
) -> None:
    policy = {"name": "All", "when": {"public": True}, "roles": ["lead"]}
    assert (await mara.post(f"{here}/policies", json={"body": policy})).status_code == 200
    id = await world.hear("Hello")
    sheet = (await ilse.get(f"{here}/conversations/{id}")).json()
    assert sheet["modes"][0]["needs"] == ["All"]
    body = {"public": True, "text": "Hi", "seen_seq": sheet["conversation"]["seq"]}
    refused = await ilse.post(f"{here}/conversations/{id}/replies", json=body)
    assert (refused.status_code, refused.json()["type"]) == (409, "/problems/needs-approval")
    proposal = (await ilse.post(f"{here}/conversations/{id}/proposals", json=body)).json()["id"]
    (waiting,) = (await mara.get(f"{here}/approvals")).json()
    assert (waiting["id"], waiting["mine"]) == (proposal, True)
    assert (await mara.get(f"{here}/waiting")).json()["approvals"] == 1
    assert (await ilse.post(f"{here}/proposals/{proposal}/approve", json={"seen_seq": 99})).status_code == 403
    done = await mara.post(f"{here}/proposals/{proposal}/approve", json={"seen_seq": waiting["seq"]})
    assert done.json()["sent"] is True
