"""Every endpoint of a workspace, asked for another workspace's things."""

import re
from datetime import UTC, datetime, timedelta

import pytest
from fastapi import FastAPI
from fastapi.routing import iter_route_contexts

from tests.api.conftest import Client
from tests.world import World

pytestmark = pytest.mark.anyio

RULE = {
    "name": "x",
    "when": {"type": "group", "of": "all", "parts": [{"type": "words", "words": ["unheard"]}]},
    "then": [{"type": "like"}],
}
POLICY = {"name": "x", "when": {"public": True}, "roles": ["owner"]}
TOMORROW = (datetime.now(UTC) + timedelta(days=1)).isoformat()
BODIES = {
    "keep_report": {"name": "x", "query": "period=today"},
    "start_what_if": {"days": 1},
    "connect_account": {
        "network": "nowhere",
        "name": "x",
        "handle": "x",
        "external_id": "x",
        "api_url": "https://x",
        "token": "x",
    },
    "add_api_token": {"name": "x", "permissions": ["see"], "days": 7},
    "add_hook": {"name": "x", "url": "https://x.example", "kinds": ["moves"]},
    "set_hook": {"name": "x", "url": "https://x.example", "kinds": ["moves"]},
    "tell_hook_again": {},
    "ask_for_leave": {"network": "quillet"},
    "take_grant": {"network": "quillet", "response": "code=x&state=1.x", "state": "1.x"},
    "invite": {"emails": "uma@tidewater.example", "role": "responder"},
    "import_conversations": {"document": {"orderedItems": [{"orderedItems": []}]}},
    "share_report": {"name": "x", "query": "period=today"},
    "set_false_alarms": {"a_month": 1},
    "add_acts": {"on": [{"id": 1, "seen_seq": 1}], "act": {"act": "keep"}},
    "undo_acts": {"acts": [{"id": 1, "seq": 1}]},
    "set_view": {"name": "x", "query": {}},
    "add_moderation": {"what": "like"},
    "add_act": {"act": {"act": "keep"}, "seen_seq": 1},
    "set_hours": {
        "time_zone": "Europe/Copenhagen",
        "week": ["9-17"] * 7,
        "special": {},
        "targets": {a: {"urgent": 30, "high": 60, "normal": 90, "low": 120} for a in ("public", "private", "review")},
    },
    "add_fact": {"name": "x", "value": "x"},
    "erase_person": {"name": "x"},
    "read_earlier": {"days": 7, "stays_open": False},
    "set_period": {"days": 10},
    "set_person_tag": {"name": "x", "on": True},
    "add_follow_up": {"words": "x", "due_at": "2030-01-01T00:00:00Z"},
    "set_follow_up": {"done": True},
    "add_join": {"person_id": 999},
    "add_listening": {"words": "brine", "account_id": 1},
    "translate_text": {"text": "x", "language": "es"},
    "add_translation": {"language": "es"},
    "add_advice": {"to_address": "vet@clinic.example", "question": "x", "wait_until": TOMORROW},
    "add_reply": {"public": True, "text": "x", "seen_seq": 1},
    "undo_act": {"seq": 1},
    "set_read": {"seq": 1},
    "set_draft": {"mode": "note", "body": "x"},
    "set_presence": {"conversation_id": 1},
    "set_token": {"token": "x"},
    "add_provider_group": {"name": "x", "role": "observer"},
    "add_group": {"name": "x", "accounts": [], "members": []},
    "set_group": {"name": "x", "accounts": [], "members": []},
    "export_selected": {"ids": [1]},
    "set_sign_off": {"sign_off": ""},
    "add_team": {"name": "x", "members": []},
    "set_team": {"name": "x", "members": []},
    "add_tag": {"name": "x"},
    "set_tag": {"name": "x"},
    "merge_tag": {"into": 1},
    "set_sight": {"limited": False, "groups": []},
    "add_role": {"name": "x", "permissions": ["see"]},
    "set_role": {"name": "x", "permissions": ["see"]},
    "give_role": {"role": "owner"},
    "let_member_go": {},
    "set_second_needs": {"needs_second": False},
    "make_workspace": {"name": "x", "time_zone": "UTC"},
    "skip_step": {"skipped": True},
    "add_ready_rules": {"keys": ["spam"]},
    "set_about": {"name": "x", "description": "", "languages": ["en"], "colour": None},
    "set_desk": {"name": "x", "follow_hours": 1},
    "set_advice_domains": {"domains": []},
    "add_saved_reply": {"name": "x", "text": "x"},
    "set_saved_reply": {"name": "x", "text": "x"},
    "set_saved_reply_archived": {"archived": True},
    "set_kept_link": {"name": "x", "target": "https://brinewick.example"},
    "add_rule": {"body": RULE},
    "add_proposal": {"public": True, "text": "x", "seen_seq": 1},
    "set_proposal": {"text": "x", "seen_seq": 1},
    "approve_proposal": {"seen_seq": 1},
    "send_proposal_back": {"reason": "x"},
    "add_policy": {"body": POLICY},
    "try_policy": {"body": POLICY},
    "set_asking": {"share": 50},
    "set_policy": {"body": POLICY},
    "check_rule": {"body": RULE},
    "set_rule": {"version": 1, "on": True},
    "set_rule_order": {"ids": [999], "was": [999]},
    "import_rules": {"format": "sorta-rules/1", "names": {}, "rules": []},
    "start_trial": {"body": RULE},
    "add_review": {"ids": [1], "verdict": "kept"},
    "set_availability": {"capacity": 3},
    "set_team_way": {"way": "known"},
    "add_scheduled": {"public": True, "text": "x", "seen_seq": 1, "send_at": TOMORROW},
    "set_scheduled": {"text": "x", "seen_seq": 1, "send_at": TOMORROW},
    "check_reading": {"message_id": 1, "labels": []},
    "describe_attachment": {"description": "x"},
    "set_library_file": {"name": "x", "description": "x"},
    "add_draw": {"post_id": 999, "rules": {"name": "x", "deadline": TOMORROW}},
    "notify_winners": {"saved_reply_id": 1, "places": [1]},
    "hold_outgoing": {"reason": "x"},
    "read_calendar": {"text": "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nEND:VCALENDAR\r\n"},
    "set_alert_choice": {"here": True, "device": True, "mail": False, "text": False},
    "set_alert_default": {"here": True, "device": True, "mail": False, "text": False},
    "set_alert_habits": {"digest": "hourly"},
    "add_alert_watch": {"words": ["leak*"]},
}
#: What these answer to somebody who names nothing of the other workspace in the address.
REFUSED = {
    "set_presence": 404,
    "add_listening": 404,
    "check_reading": 404,
    "take_back_own_reading": 409,
    "start_what_if": 422,
    "connect_account": 422,
    "take_grant": 422,
    "add_provider_group": 422,
    "set_picture": 422,
    "add_library_file": 422,
    "remove_picture": 404,
    "get_picture": 404,
    "add_draw": 404,
    "translate_text": 422,
    "set_alert_choice": 422,
    "set_alert_default": 422,
    "set_rule_order": 422,
}
QUERIES = {
    "list_conversations": {"move": "unsorted"},
    "find": {"words": "quokka"},
    "list_rows": {"ids": [1]},
    "add_attachment": {"name": "x.txt"},
    "add_library_file": {"name": "x.txt"},
    "suggest_words": {"words": "quokkaa"},
    "export_conversations_csv": {"figure": "came_in"},
    "export_conversations_streams": {"figure": "came_in"},
    "export_conversations_xlsx": {"figure": "came_in"},
}


def list_routes(app: FastAPI) -> list[tuple[str, str, str]]:
    return [
        (c.name, next(iter(c.methods)), c.path)
        for c in iter_route_contexts(app.routes)
        if "{workspace_id}" in c.path and c.path.startswith("/api/")
    ]


async def ask(client: Client, name: str, method: str, path: str, **ids: int) -> object:
    url = re.sub(r"{(\w+)}", lambda m: str(ids.get(m[1], ids["any"])), path)
    return await client.request(method, url, json=BODIES.get(name), params=QUERIES.get(name))


async def test_no_endpoint_answers_for_a_workspace_one_is_not_in(app: FastAPI, mara: Client, world: World) -> None:
    routes = list_routes(app)
    assert len(routes) >= 18
    for name, method, path in routes:
        answer = await ask(mara, name, method, path, workspace_id=world.other_workspace_id, any=1)
        assert answer.status_code == 404, (name, answer.text)


async def test_no_endpoint_answers_without_a_session(app: FastAPI, anyone: Client, world: World) -> None:
    for name, method, path in list_routes(app):
        answer = await ask(anyone, name, method, path, workspace_id=world.workspace_id, any=1)
        assert answer.status_code == 401, (name, answer.text)


async def test_in_ones_own_workspace_the_others_things_do_not_exist(app: FastAPI, anyone: Client, world: World) -> None:
    """Otto owns the other workspace and asks there, by the numbers of this one's conversation and account.

    What would make something there comes last, so that nothing of his own happens to have such a number.
    """
    conversation_id = await world.hear("a rare word: quokka")
    account_id = world.accounts["commonfold"].id
    before = await world.row(conversation_id)
    await anyone.enter("otto")
    BODIES["set_presence"] = {"conversation_id": conversation_id}
    for name, method, path in sorted(
        list_routes(app), key=lambda route: "{" not in route[2].split("{workspace_id}")[1]
    ):
        # After the one nothing else is answered; the other does not end.
        if name in ("archive_workspace", "stream_live"):
            continue
        if "{" in path.replace("{workspace_id}", "") or name in REFUSED:
            answer = await ask(
                anyone,
                name,
                method,
                path,
                workspace_id=world.other_workspace_id,
                account_id=account_id,
                any=conversation_id,
            )
            assert answer.status_code == REFUSED.get(name, 404), (name, answer.status_code, answer.text)
            continue
        answer = await ask(anyone, name, method, path, workspace_id=world.other_workspace_id, any=conversation_id)
        assert answer.status_code in (200, 201, 204), (name, answer.text)
        assert "quokka" not in answer.text
        assert "Petra" not in answer.text
        if name in ("list_conversations", "list_rows", "list_accounts", "list_aside", "list_presence"):
            assert answer.json() in ([], {"rows": []}), name
    assert await world.row(conversation_id) == before
