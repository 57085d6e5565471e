"""A workspace carried whole from one installation to another: what goes along, and which numbers in it are names of other things. Used by services.carrying.

Numbers are an installation's own: each thing gets a new one where it comes in, and wherever one stands for another thing it is changed with it, in columns and in what is
kept as JSON alike. What a word stands for is the same everywhere, so one table says it. That none is forgotten is tried with an installation whose numbers say what they are of
(tests/services/test_carrying.py).
"""

from collections.abc import Callable, Mapping
from typing import Any
from urllib.parse import parse_qsl, urlencode

#: What a number is of, by the word it stands under: a column's name or a key.
WORDS: Mapping[str, str] = {
    word: table
    for table, words in {
        "account": "account account_id accounts",
        "account_group": "group group_id groups",
        "advice": "advice advice_id advice_waiting",
        "attachment": "attachment attachments",
        "conversation": "conversation conversation_id linked other",
        "draw": "draw draw_id",
        "identity": "identity identity_id identities",
        "link": "link link_id",
        "member": "member member_id members owner owner_id author author_id watchers by to_owner asked_by made_by changed_by done_by opened_by drawn_by edited_by"
        " decided_by reviewed_by removed_by disconnected_by let_go_by ended_by",
        "message": "message message_id messages thanked reply_id answered_id picked settled_on parked_on",
        "person": "person person_id persons joined_to kept_id gone_id",
        "policy": "policy policy_id",
        "post": "post post_id",
        "proposal": "proposal proposal_id",
        "rule": "rule rule_id",
        "saved_reply": "saved saved_reply saved_reply_id",
        "scheduled_reply": "scheduled",
        "support_case": "case case_id",
        "support_desk": "desk desk_id",
        "tag": "tag tags tag_id staff person_tag merged_into into",
        "team": "team teams team_id to_team",
    }.items()
    for word in words.split()
}
#: Columns that hold an address's query, in which numbers stand as words do.
QUERIES = frozenset({("saved_view", "query"), ("kept_report", "query")})
#: Columns in which no number is a name: a proof, of which not a sign may change, and counts.
UNTOUCHED = frozenset({("draw", "certificate"), ("conversation", "messages"), ("erasure", "counts")})

#: Tables of a workspace that stay, and why.
STAYS: Mapping[str, str] = {
    "alert": "what members of that installation were told",
    "alert_way": "what members of that installation were told",
    "api_token": "lets a program in at that installation",
    "duty": "what runs by itself there",
    "filing": "made anew with the conversations",
    "grant_try": "under way for ten minutes there",
    "hook_event": "what programs were told there",
    "invitation": "a link to that installation",
    "own_reading": "learned anew from the corrections, which go along",
    "presence": "who is there now",
    "provider_group": "groups of that installation's provider",
    "record": "begins anew: its chain is that installation's",
    "report_letter": "letters of that installation",
    "rule_trial": "tried there",
    "security_event": "that installation's own log",
    "shared_report": "a link to that installation",
    "spell_day": "packed anew from the spells",
    "tally": "counted anew",
    "tally_change": "counted anew",
    "unusual_hour": "told there",
    "web_hook": "signs as that installation",
    "what_if": "played there",
}
#: Columns that do not go along, and what stands in their place: secrets, and what is under way with the network.
BLANK: Mapping[str, Mapping[str, Any]] = {
    "account": {
        "hook_secret_before": None,
        "hook_secret_until": None,
        "refresh_token": None,
        "token_ends_at": None,
        "renew_at": None,
        "paused_reason": None,
    },
    "support_desk": {"hook_secret_before": None, "hook_secret_until": None},
    "membership": {"by_group": False},
}

#: From a kind of thing and its number there to its number here; None where it does not come along.
Move = Callable[[str, int], int | None]


def carry(table: str, row: Mapping[str, Any], move: Move) -> dict[str, Any]:
    """A row with every number of another thing changed; those of what does not come along are left out of lists, and none elsewhere."""
    found = {}
    for column, value in row.items():
        if (table, column) in UNTOUCHED:
            found[column] = value
        elif (table, column) in QUERIES:
            found[column] = _carry_query(value, move)
        elif column == "id":
            found[column] = move(table, value)
        else:
            found[column] = _carry(column, value, move)
    return found


def _carry(word: str, value: Any, move: Move, *, loose: bool = False) -> Any:
    kind = WORDS.get(word)
    if kind is not None and _is_number(value, loose=loose):
        moved = move(kind, int(value))
        return str(moved) if isinstance(value, str) and moved is not None else moved
    if isinstance(value, list):
        carried = [_carry(word, one, move, loose=loose) for one in value]
        gone = [new is None and old is not None for old, new in zip(value, carried, strict=True)]
        return [new for new, is_gone in zip(carried, gone, strict=True) if not is_gone]
    if isinstance(value, dict):
        return {key: _carry_under(word, value, key, move, loose=loose) for key in value}
    return value


def _carry_under(word: str, within: Mapping[str, Any], key: str, move: Move, *, loose: bool) -> Any:
    # Of a thing that is told with more than its number, the number is of what it stands under.
    if key == "id":
        return _carry(word, within[key], move, loose=loose)
    # What made a condition hold is told with the condition's type.
    if key == "value" and isinstance(within.get("type"), str):
        return _carry(within["type"], within[key], move, loose=True)
    return _carry(key, within[key], move, loose=loose)


def _is_number(value: Any, *, loose: bool) -> bool:
    if isinstance(value, str):
        return loose and value.isascii() and value.isdigit()
    # Numbers begin with 1: a 0 says that there is none (consent that no policy asked for).
    return isinstance(value, int) and not isinstance(value, bool) and value > 0


def _carry_query(value: Any, move: Move) -> Any:
    if isinstance(value, str):
        said = [(word, _carry(word, one, move, loose=True)) for word, one in parse_qsl(value, keep_blank_values=True)]
        return urlencode([(word, one) for word, one in said if one is not None])
    return _carry("", value, move, loose=True)
