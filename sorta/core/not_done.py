"""Why something that a rule says was left undone (docs/trade.md 6): each reason by one name, and the words it is told in.
Used by core.deciding, core.trial and services."""

from collections.abc import Iterable, Mapping
from enum import StrEnum
from typing import Any


class NotDone(StrEnum):
    """A reason of ours. What a network cannot do is said in its own words, and kept so."""

    AUTOMATIC = "automatic"
    BLOCKED = "blocked"
    JUNK = "junk"
    HIDDEN = "hidden"
    HELD = "held"
    MEMBER_ANSWERED = "member_answered"
    MEMBER_WRITING = "member_writing"
    ANSWERED_BEFORE = "answered_before"
    PERSON_TODAY = "person_today"
    STORM = "storm"
    ANSWERS_OFF = "answers_off"
    ONLY_THANKS = "only_thanks"
    LANGUAGE = "language"
    SAVED_REPLY_ARCHIVED = "saved_reply_archived"
    LINK_GONE = "link_gone"
    DESK_REMOVED = "desk_removed"


_WORDS: Mapping[str, str] = {
    NotDone.AUTOMATIC: "a program wrote this.",
    NotDone.BLOCKED: "they are blocked.",
    NotDone.JUNK: "something they wrote was settled as junk.",
    NotDone.HIDDEN: "something they wrote is hidden.",
    NotDone.HELD: "everything that goes out is held.",
    NotDone.MEMBER_ANSWERED: "one of us had answered.",
    NotDone.MEMBER_WRITING: "one of us was writing an answer.",
    NotDone.ANSWERED_BEFORE: "an automatic answer had gone out in this conversation.",
    NotDone.PERSON_TODAY: "they had an automatic answer within a day.",
    NotDone.STORM: "it had answered too often within minutes, and stopped answering.",
    NotDone.ANSWERS_OFF: "its answering was stopped.",
    NotDone.ONLY_THANKS: "they only thanked us for what is settled.",
    NotDone.LANGUAGE: "its answer is not written for their language.",
    NotDone.SAVED_REPLY_ARCHIVED: "its saved reply is archived.",
    NotDone.LINK_GONE: "a link in its answer is not kept any more.",
    NotDone.DESK_REMOVED: "the desk is not connected any more.",
}
#: What is left undone, by the name of its action.
_ACTS: Mapping[str, str] = {
    "reply": "answer",
    "like": "like it",
    "hide": "hide it",
    "settle": "settle it",
    "park": "park it",
    "hand_over": "hand it over",
}


def list_not_done(rule: str, done: Iterable[str], lost: Iterable[Mapping[str, Any]]) -> list[str]:
    """What a rule left undone with a message it met, a sentence each, nothing twice. `lost` are actions as they were kept, `done` the
    names of those that came to pass.

    Left out is what another rule or a member had decided before, which stands in the trail, and an answer for another language where
    one for theirs went out.
    """
    came = set(done)
    said = (
        f"The rule “{rule}” did not {_ACTS.get(one['effect'], one['effect'])}: {say_why(one['why'])}"
        for one in lost
        if one.get("why") and not (one["why"] == NotDone.LANGUAGE and one["effect"] in came)
    )
    return list(dict.fromkeys(said))


def say_why(why: str) -> str:
    """A reason as it was kept, in words."""
    return _WORDS.get(why, why)
