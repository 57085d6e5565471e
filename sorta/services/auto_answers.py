"""What must hold before a rule answers by itself, and calling such an answer back while it can be stopped (docs/trade.md 6).
Used by services.ruling; whatever makes an automatic answer superfluous calls it back.
"""

from datetime import timedelta

import structlog

from sorta.core.deciding import (
    ANSWERS_MINUTES,
    MOST_ANSWERS,
    PERSON_HOURS,
    AnswersSoFar,
    Heard,
    get_answer_obstacle,
)
from sorta.core.not_done import NotDone
from sorta.core.permissions import Permission
from sorta.core.rules import RuleRef
from sorta.services.alerts import add_alerts
from sorta.services.house import PRESENT_FOR
from sorta.services.trail import Ledger, Open
from sorta.store import alerts, outbox, rules

log = structlog.get_logger()


async def find_obstacle(
    ledger: Ledger, conversation: Open, heard: Heard, rule: RuleRef, *, is_held: bool, was_junk: bool
) -> NotDone | None:
    """Why this rule must not answer this message now; None when it may, and then nobody else counts its answers or those to
    this person until the transaction ends. A rule that has answered too often answers no more, and the leads are told."""
    tx = ledger.tx
    author = await get_author(ledger, conversation, heard.person)
    counted = await rules.count_answers(
        tx,
        rule_id=rule.id,
        conversation_id=conversation.id,
        person_id=heard.person,
        day_ago=ledger.now - timedelta(hours=PERSON_HOURS),
        lately=ledger.now - timedelta(minutes=ANSWERS_MINUTES),
        now=ledger.now,
    )
    if counted is None:
        return NotDone.ANSWERS_OFF
    so_far = AnswersSoFar(
        in_conversation=counted["in_conversation"],
        to_person=counted["to_person"],
        by_rule=counted["by_rule"],
        is_held=is_held,
        is_blocked=heard.blocked,
        was_junk=was_junk,
        is_answered=author["is_answered"] or ledger.has_answer(conversation),
        is_writing=author["is_writing"],
    )
    obstacle = get_answer_obstacle(heard, so_far)
    if obstacle is NotDone.STORM:
        await _stop(ledger, rule)
    return obstacle


async def get_author(ledger: Ledger, conversation: Open, person_id: int) -> dict[str, bool]:
    """What rules must know before they do anything outside: whether one of us has answered in the conversation
    (`is_answered`) or is writing there (`is_writing`), and whether anything of this person's was settled as junk
    (`has_junk`) or is hidden (`has_hidden`)."""
    return await rules.get_author(
        ledger.tx,
        conversation_id=conversation.id,
        person_id=person_id,
        present=ledger.now - PRESENT_FOR,
    )


async def _stop(ledger: Ledger, rule: RuleRef) -> None:
    """A storm: the rule answers no more, goes on sorting, and the leads are told."""
    words = f"More than {MOST_ANSWERS} answers in {ANSWERS_MINUTES} minutes"
    if not await rules.stop_answers(ledger.tx, rule.id, words, ledger.now):
        return
    leads = await alerts.list_members_with(ledger.tx, Permission.HOLD_OUTGOING)
    await add_alerts(
        ledger.tx,
        members=leads,
        occasion="rule_off",
        words=f"The rule “{rule.name}” answers no more: {words.lower()}. The rest of it goes on.",
        conversation_id=None,
        key=f"rule_off:{rule.id}:{ledger.now.isoformat()}",
        now=ledger.now,
    )
    log.warning("rule answers no more", rule=rule.id, reason=words)


async def call_back(ledger: Ledger, conversation: Open, why: str) -> None:
    """Somebody has answered, or decided that there is nothing to answer: what a rule was about to send is not sent. Before
    anything else is added to the conversation's trail."""
    if not conversation.facts.answering:
        return
    for one in await rules.list_stoppable(ledger.tx, conversation.id):
        if await outbox.withdraw_outgoing(ledger.tx, one["message_id"], "reply"):
            await ledger.add_undone(conversation, one["seq"], None, why)
            ledger.unsay(conversation)
