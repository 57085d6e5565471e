"""Every endpoint and every act by every permission: refused without the one it needs, not refused with it alone.

A new endpoint that writes has to be added to NEEDS, a new act to ACTS, or the test says so.
"""

from typing import Any, get_args

import httpx
import pytest
from fastapi import FastAPI

from sorta.api.schemas import acts as shapes
from sorta.core.permissions import STARTING, Permission, Role
from sorta.store import people
from tests.api.conftest import Client
from tests.api.test_isolation import BODIES, ask, list_routes
from tests.world import World

pytestmark = pytest.mark.anyio
P = Permission

#: What each endpoint that changes something needs; None: whoever sees the workspace may, for it is about themselves
#: or changes nothing.
NEEDS: dict[str, Permission | None] = {
    "keep_report": P.SEE_REPORTS,
    "forget_report": P.SEE_REPORTS,
    "start_what_if": P.SEE_REPORTS,
    "connect_account": P.MANAGE_ACCOUNTS,
    "ask_for_leave": P.MANAGE_ACCOUNTS,
    "add_api_token": P.MANAGE_ACCOUNTS,
    "revoke_api_token": P.MANAGE_ACCOUNTS,
    "add_hook": P.MANAGE_ACCOUNTS,
    "set_hook": P.MANAGE_ACCOUNTS,
    "change_program_secret": P.MANAGE_ACCOUNTS,
    "remove_hook": P.MANAGE_ACCOUNTS,
    "tell_hook_again": P.MANAGE_ACCOUNTS,
    "take_grant": P.MANAGE_ACCOUNTS,
    "disconnect_account": P.MANAGE_ACCOUNTS,
    "invite": P.MANAGE_MEMBERS,
    "add_group": P.MANAGE_MEMBERS,
    "add_team": P.MANAGE_MEMBERS,
    "set_team": P.MANAGE_MEMBERS,
    "add_tag": P.MANAGE_TAGS,
    "set_tag": P.MANAGE_TAGS,
    "merge_tag": P.MANAGE_TAGS,
    "set_picture": None,
    "remove_picture": None,
    "add_provider_group": P.MANAGE_MEMBERS,
    "remove_provider_group": P.MANAGE_MEMBERS,
    "set_group": P.MANAGE_MEMBERS,
    "remove_group": P.MANAGE_MEMBERS,
    "set_sight": P.MANAGE_MEMBERS,
    "cancel_invitation": P.MANAGE_MEMBERS,
    "import_conversations": P.MANAGE_ACCOUNTS,
    "forget_what_if": P.SEE_REPORTS,
    "share_report": P.EXPORT,
    "revoke_shared_report": P.EXPORT,
    "set_false_alarms": P.MANAGE_RULES,
    "set_token": P.MANAGE_ACCOUNTS,
    "set_sign_off": P.MANAGE_ACCOUNTS,
    "change_hook_secret": P.MANAGE_ACCOUNTS,
    "change_desk_hook_secret": P.MANAGE_ACCOUNTS,
    "try_aside": P.MANAGE_ACCOUNTS,
    "set_desk": P.MANAGE_ACCOUNTS,
    "try_case_again": P.SORT,
    "export_selected": P.EXPORT,
    "add_acts": P.SORT,
    "add_act": P.SORT,
    "undo_act": P.SORT,
    "undo_acts": P.SORT,
    "set_draft": P.SORT,
    "add_attachment": P.SORT,
    "add_advice": P.ASK_OUTSIDE,
    "set_advice_domains": P.MANAGE_RULES,
    "stop_waiting": P.SORT,
    "delete_attachment": P.SORT,
    "describe_attachment": P.SORT,
    "add_from_library": P.SORT,
    "add_library_file": P.MANAGE_REPLIES,
    "set_library_file": P.MANAGE_REPLIES,
    "remove_library_file": P.MANAGE_REPLIES,
    "add_reply": P.REPLY_PUBLICLY,
    "add_proposal": P.REPLY_PUBLICLY,
    "add_scheduled": P.REPLY_PUBLICLY,
    "try_outgoing": P.SORT,
    "try_letters": P.SORT,
    "add_moderation": P.MODERATE,
    "add_translation": None,
    "translate_text": P.SORT,
    "add_review": P.SORT,
    "add_fact": P.SORT,
    "erase_person": P.MANAGE_ACCOUNTS,
    "read_earlier": P.MANAGE_ACCOUNTS,
    "stop_earlier": P.MANAGE_ACCOUNTS,
    "set_period": P.MANAGE_ACCOUNTS,
    "delete_fact": P.SORT,
    "set_person_tag": P.SORT,
    "add_follow_up": P.SORT,
    "set_follow_up": P.SORT,
    "add_join": P.SORT,
    "delete_join": P.SORT,
    "add_listening": P.MANAGE_TAGS,
    "delete_listening": P.MANAGE_TAGS,
    "set_kept_link": P.MANAGE_REPLIES,
    "remove_kept_link": P.MANAGE_REPLIES,
    "check_reading": P.SORT,
    "take_back_own_reading": P.MANAGE_RULES,
    "add_saved_reply": P.MANAGE_REPLIES,
    "set_saved_reply": P.MANAGE_REPLIES,
    "set_saved_reply_archived": P.MANAGE_REPLIES,
    "set_hours": P.MANAGE_RULES,
    "add_policy": P.MANAGE_RULES,
    "try_policy": P.MANAGE_RULES,
    "set_asking": P.MANAGE_RULES,
    "set_policy": P.MANAGE_RULES,
    "remove_policy": P.MANAGE_RULES,
    "add_rule": P.MANAGE_RULES,
    "copy_rule": P.MANAGE_RULES,
    "set_rule": P.MANAGE_RULES,
    "remove_rule": P.MANAGE_RULES,
    "set_rule_order": P.MANAGE_RULES,
    "import_rules": P.MANAGE_RULES,
    "start_trial": P.MANAGE_RULES,
    "set_team_way": P.MANAGE_RULES,
    "set_availability": P.MANAGE_MEMBERS,
    "add_role": P.MANAGE_MEMBERS,
    "set_role": P.MANAGE_MEMBERS,
    "remove_role": P.MANAGE_MEMBERS,
    "give_role": P.MANAGE_MEMBERS,
    "let_member_go": P.MANAGE_MEMBERS,
    "set_second_needs": P.MANAGE_MEMBERS,
    # For Owners, whatever else a role holds: tests/services/test_workspaces.py.
    "make_workspace": None,
    "skip_step": None,
    "add_ready_rules": P.MANAGE_RULES,
    "set_about": None,
    "archive_workspace": None,
    "hold_outgoing": P.HOLD_OUTGOING,
    "release_outgoing": P.HOLD_OUTGOING,
    "add_draw": P.DRAW_PRIZES,
    "draw_winners": P.DRAW_PRIZES,
    "cancel_draw": P.DRAW_PRIZES,
    "notify_winners": P.DRAW_PRIZES,
    "set_read": None,
    "set_presence": None,
    "set_alert_choice": None,
    "forget_alert_choices": None,
    "add_alert_watch": None,
    "delete_alert_watch": None,
    "set_alert_habits": None,
    "set_alert_default": P.MANAGE_MEMBERS,
    "read_alerts": None,
    "check_rule": None,
    "read_calendar": None,
    "cancel_trial": None,
    "set_view": None,
    "delete_view": None,
    # Who may consent is said by the policy that asked, the author may withdraw and change.
    "approve_proposal": None,
    "send_proposal_back": None,
    "set_proposal": None,
    "withdraw_proposal": None,
    "set_scheduled": None,
    "remove_scheduled": None,
}
EXPORTS = (
    "export_report_csv",
    "export_report_xlsx",
    "export_conversations_csv",
    "export_conversations_xlsx",
    "export_conversations_streams",
    "export_conversations",
    "export_workbook",
)
#: Reading that needs more than to see the workspace.
READS = {
    "make_rule_of": P.MANAGE_RULES,
    "list_api_tokens": P.MANAGE_ACCOUNTS,
    "list_hooks": P.MANAGE_ACCOUNTS,
    "list_hook_events": P.MANAGE_ACCOUNTS,
    "list_aside": P.MANAGE_ACCOUNTS,
    "get_clock": P.MANAGE_ACCOUNTS,
    "list_security_log": P.MANAGE_MEMBERS,
    "export_people": P.EXPORT,
    "get_everything": P.EXPORT,
    "preview_erasure": P.MANAGE_ACCOUNTS,
    "list_earlier": P.MANAGE_ACCOUNTS,
    "preview_period": P.MANAGE_ACCOUNTS,
    "get_report": P.SEE_REPORTS,
    "get_staffing": P.SEE_REPORTS,
    "get_doings": P.SEE_REPORTS,
    "get_standing": P.SEE_REPORTS,
    "get_work": P.MANAGE_MEMBERS,
    "list_record": P.MANAGE_MEMBERS,
    "export_record": P.MANAGE_MEMBERS,
    "get_second_needs": P.MANAGE_MEMBERS,
    "list_provider_groups": P.MANAGE_MEMBERS,
    "list_kept_reports": P.SEE_REPORTS,
    "list_what_ifs": P.SEE_REPORTS,
    "list_invitations": P.MANAGE_MEMBERS,
    "get_what_if": P.SEE_REPORTS,
    "get_accounts_health": P.SEE_REPORTS,
    "list_shared_reports": P.EXPORT,
    **dict.fromkeys(EXPORTS, P.EXPORT),
}
#: A tag that is new is added to the workspace's tags.
ALSO = {
    "set_person_tag": (P.MANAGE_TAGS,),
    "export_record": (P.EXPORT,),
    "import_rules": (P.MANAGE_TAGS,),
    **dict.fromkeys((*EXPORTS, "share_report", "revoke_shared_report", "list_shared_reports"), (P.SEE_REPORTS,)),
}
ACTS: dict[str, dict[str, Any]] = {
    "assign": {"owner_id": None},
    "prioritise": {"priority": 2},
    "note": {"text": "x"},
    "keep": {},
    "park": {"choice": "tomorrow"},
    "settle": {"how": "junk"},
    "hand_over": {"desk_id": 1, "note": None},
    "reopen": {},
    "tag": {"name": "x", "on": True, "person": False},
    "watch": {"on": True},
    "correct": {"message_id": 1, "field": "language", "value": "de"},
    "answer": {"saved_reply": 1},
    "moderate": {"what": "like"},
    "translate": {"language": "de"},
}
#: Acts that need something else than to sort.
ACT_NEEDS = {"answer": P.REPLY_PUBLICLY, "moderate": P.MODERATE}


def is_refused(answer: httpx.Response) -> bool:
    """A bulk act answers for each one; all others with a problem."""
    if answer.status_code == 200 and answer.text.startswith('{"done"'):
        return answer.json()["done"] == [] and all("may not" in f["reason"] for f in answer.json()["failed"])
    return answer.status_code == 403 and answer.json()["type"].endswith("not-allowed")


async def become(world: World, *permissions: Permission) -> None:
    """Make Ilse somebody who holds these and nothing else."""
    async with world.house.db.transact(world.workspace_id) as tx:
        held = sorted(permissions)
        if "matrix" in {r["key"] for r in await people.list_roles(tx)}:
            await people.change_role(tx, key="matrix", name="Matrix", permissions=held)
        else:
            await people.add_role(tx, key="matrix", name="Matrix", permissions=held)
        await people.set_role(tx, world.scopes["ilse"].member_id, "matrix")


def list_writes(app: FastAPI) -> list[tuple[str, str, str]]:
    return [route for route in list_routes(app) if route[1] != "GET"]


async def test_every_endpoint_that_writes_and_every_act_is_in_the_table(app: FastAPI) -> None:
    assert {name for name, _, _ in list_writes(app)} == set(NEEDS)
    kinds = {get_args(shape.model_fields["act"].annotation)[0] for shape in get_args(get_args(shapes.Act)[0])}
    assert kinds == set(ACTS)


async def test_each_endpoint_needs_what_the_table_says(app: FastAPI, anyone: Client, world: World) -> None:
    await world.hear("hi")
    await anyone.enter("ilse")
    routes = {name: (method, path) for name, method, path in list_routes(app)}
    for name, needed in {**NEEDS, **READS}.items():
        if needed is None:
            continue
        method, path = routes[name]
        where = {"workspace_id": world.workspace_id, "account_id": world.accounts["commonfold"].id, "any": 1}
        # What changes something comes after what is refused, or a role that was given would not be held any more.
        await become(world, *(set(P) - {needed}))
        refused = await ask(anyone, name, method, path, **where)
        assert is_refused(refused), (name, refused.status_code, refused.text)
        await become(world, P.SEE, needed, *ALSO.get(name, ()))
        if name in ("give_role", "set_role", "remove_role", "invite", "let_member_go", "set_sight"):
            continue
        answer = await ask(anyone, name, method, path, **where)
        assert not is_refused(answer), (name, answer.text)


async def test_each_act_needs_what_it_says_by_one_and_in_bulk(anyone: Client, world: World, here: str) -> None:
    id = await world.hear("hi")
    await anyone.enter("ilse")
    for kind, body in ACTS.items():
        act = {"act": kind, **body}
        needed = ACT_NEEDS.get(kind, P.SORT)
        await become(world, *(set(P) - {needed}))
        one = await anyone.post(f"{here}/conversations/{id}/acts", json={"act": act, "seen_seq": 1})
        assert is_refused(one), (kind, one.text)
        many = await anyone.post(f"{here}/acts", json={"on": [{"id": id, "seen_seq": 1}], "act": act})
        assert is_refused(many), (kind, many.text)
        await become(world, P.SEE, needed, P.MANAGE_TAGS)
        one = await anyone.post(f"{here}/conversations/{id}/acts", json={"act": act, "seen_seq": 1})
        assert not is_refused(one), (kind, one.text)


async def test_who_sees_reads_everything_but_exports_and_what_was_kept_aside(
    app: FastAPI, anyone: Client, world: World
) -> None:
    await world.hear("hi")
    await anyone.enter("ilse")
    await become(world, P.SEE)
    for name, method, path in list_routes(app):
        if method != "GET" or name in READS or name == "stream_live":
            continue
        answer = await ask(anyone, name, method, path, workspace_id=world.workspace_id, any=1)
        assert answer.status_code != 403, (name, answer.text)


async def test_a_public_and_a_private_reply_need_each_their_own(anyone: Client, world: World, here: str) -> None:
    id = await world.hear("hi")
    await anyone.enter("ilse")
    for public, needed in ((True, P.REPLY_PUBLICLY), (False, P.REPLY_PRIVATELY)):
        body = {**BODIES["add_reply"], "public": public}
        await become(world, *(set(P) - {needed}))
        assert (await anyone.post(f"{here}/conversations/{id}/replies", json=body)).status_code == 403
        await become(world, P.SEE, needed)
        without = await anyone.post(f"{here}/conversations/{id}/replies", json=body)
        assert without.json()["type"].endswith("needs-approval"), without.text


@pytest.mark.parametrize("role", list(Role))
async def test_the_interface_is_told_what_the_role_holds(anyone: Client, world: World, role: Role) -> None:
    async with world.house.db.transact(world.workspace_id) as tx:
        await people.set_role(tx, world.scopes["ilse"].member_id, role)
    await anyone.enter("ilse")
    (mine,) = (await anyone.get("/api/session")).json()["workspaces"]
    assert set(mine["permissions"]) == STARTING[role].grants
