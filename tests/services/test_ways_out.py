"""Every way by which words leave: declared, and past the gate. The services' own code is read, so that a new way fails here before
anybody has thought of it; and what each way refuses is tried, by every role."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from sorta.core.approval import PolicyBody, PolicyWhen
from sorta.core.errors import Invalid, NeedsApproval, NotAllowed
from sorta.core.rules import AnswerWith, Anything, Conditions, RuleBody, SetPriority
from sorta.core.targets import Priority
from sorta.core.texts import SavedReplyBody
from sorta.services import advice, cases, policies, rules, texts
from sorta.services.consent import WAYS
from tests.services.test_advice import PostBox, box
from tests.world import ROLES, World

pytestmark = pytest.mark.anyio
SERVICES = Path(advice.__file__).parent
#: What puts something outside, or writes it down to be put there, as it stands in the code.
SINKS = re.compile(
    r"(^|\.)(queue_outgoing|add_outgoing|add_advice|add_case|add_link)$|(^|\.)post\.send$|^network\.(send|moderate)$"
    r"|case_desk\.(open|add)$|\.translate$|^self\._outgoing\.append$"
)
__all__ = ["box"]


def list_functions() -> Iterator[tuple[str, set[str]]]:
    """Every function of the services, with the names of what it calls as they are written."""
    for path in sorted(SERVICES.glob("*.py")):
        tree = ast.parse(path.read_text())
        classes = [(f"{one.name}.", one.body) for one in tree.body if isinstance(one, ast.ClassDef)]
        for prefix, body in [("", tree.body), *classes]:
            for one in body:
                if isinstance(one, ast.FunctionDef | ast.AsyncFunctionDef):
                    calls = {ast.unparse(n.func) for n in ast.walk(one) if isinstance(n, ast.Call)}
                    yield f"{path.stem}.{prefix}{one.name}", calls


FUNCTIONS = dict(list_functions())


def calls_any(where: str, names: tuple[str, ...]) -> bool:
    return any(call.rpartition(".")[2] in names for call in FUNCTIONS[where])


def find_open(functions: dict[str, set[str]]) -> list[str]:
    """What is wrong with the ways out: none declared, or one whose gate is not passed."""
    declared = {way.where: way for way in WAYS}
    wrong = [
        f"{where} is a way out that is not declared"
        for where, calls in functions.items()
        if any(SINKS.search(call) for call in calls) and where not in declared
    ]
    for where, way in declared.items():
        if where not in functions:
            wrong.append(f"{where} is declared and not there")
        elif way.through is None:
            wrong += [] if way.why else [f"{where} passes no gate and does not say why"]
        elif not way.called_by:
            wrong += [] if calls_any(where, way.through) else [f"{where} does not pass its gate"]
        else:
            bare = where.rpartition(".")[2]
            # What begins with an underscore is called in its own module only.
            near = where.partition(".")[0] if bare.startswith("_") else ""
            callers = [
                w
                for w, calls in functions.items()
                if w.startswith(near) and any(c.rpartition(".")[2] == bare for c in calls)
            ]
            assert callers, where
            wrong += [
                f"{one} leads to {where} and does not pass its gate"
                for one in callers
                if one not in way.wordless and not calls_any(one, way.through)
            ]
    return wrong


def test_every_way_out_is_declared_and_passes_its_gate() -> None:
    assert find_open(FUNCTIONS) == []


def test_a_new_way_out_would_be_seen() -> None:
    """The check can fail: each of these would."""
    for calls in ({"house.post.send"}, {"network.send"}, {"house.case_desk.add"}, {"outbox.add_outgoing"}):
        assert find_open({**FUNCTIONS, "fresh.way": calls}) == ["fresh.way is a way out that is not declared"]
    FUNCTIONS["fresh.way"] = {"commit_reply"}
    try:
        assert find_open(FUNCTIONS) == ["fresh.way leads to answers.commit_reply and does not pass its gate"]
    finally:
        del FUNCTIONS["fresh.way"]
    assert "advice.ask is declared and not there" in find_open(
        {k: v for k, v in FUNCTIONS.items() if k != "advice.ask"}
    )


async def add_policy(world: World) -> None:
    body = PolicyBody(name="Refunds", when=PolicyWhen(words=("refund*",)), roles=("lead",))
    await policies.add_policy(world.house, world.scopes["noor"], body, on=True, now=world.now)


async def ask(
    world: World, by: str, *, to: str = "vet@clinic.example", question: str = "Is it well?", name: str = ""
) -> int:
    id = await world.hear("hi", handle=f"h{by}{len(question)}{to[:3]}")
    return await advice.ask(
        world.house,
        world.scopes[by],
        id,
        to_address=to,
        to_name=name,
        question=question,
        wait_until=world.after(hours=4),
        now=world.now,
    )


@pytest.mark.usefixtures("box")
@pytest.mark.parametrize("by", ROLES)
async def test_who_may_ask_outside_and_where_and_in_which_words(world: World, by: str) -> None:
    """A trainee once mailed 'we will refund you in full' to anybody at all."""
    await add_policy(world)
    if by in ("ana", "lise"):
        with pytest.raises(NotAllowed, match="ask people outside"):
            await ask(world, by)
        return
    await ask(world, by)
    for to in ("anybody@rival.example", "x@sub.clinic.example", "x@clinic.example.rival.example"):
        with pytest.raises(Invalid, match=r"Only at clinic\.example, law\.example\."):
            await ask(world, by, to=to)
    for more in ({"question": "We will REFUND you in full"}, {"name": "Refund desk"}):
        with pytest.raises(NeedsApproval, match="Refunds"):
            await ask(world, by, **more)


async def test_the_list_of_mail_domains(world: World, box: PostBox) -> None:
    noor, house = world.scopes["noor"], world.house
    await advice.set_domains(house, noor, [" @Law.Example", "law.example", "", "clinic.example"])
    assert await advice.list_domains(house, noor) == ["clinic.example", "law.example"]
    for wrong in ("no domain", "a@b.example", "*", "localhost", "x" * 260 + ".example"):
        with pytest.raises(Invalid, match="no mail domain"):
            await advice.set_domains(house, noor, [wrong])
    with pytest.raises(NotAllowed):
        await advice.set_domains(house, world.scopes["ilse"], [])
    await advice.set_domains(house, noor, [])
    with pytest.raises(Invalid, match="None is listed yet"):
        await ask(world, "noor")


@pytest.mark.parametrize("by", ["noor", "mara", "ilse", "ana"])
async def test_a_note_to_a_desk_goes_past_the_policies(world: World, by: str) -> None:
    await add_policy(world)
    id = await world.hear("hi")
    given = {"desk_id": world.desk_id, "now": world.now}
    with pytest.raises(NeedsApproval, match="Refunds"):
        await cases.hand_over(world.house, world.scopes[by], id, note="Refund them in full", **given)
    assert (await world.row(id))["move"] == "unsorted"
    await cases.hand_over(world.house, world.scopes[by], id, note="Please look", **given)


ANY = Conditions(parts=(Anything(),))
ANSWERS = RuleBody(name="Hours", when=ANY, then=(AnswerWith(text="We open at nine.", language="en"),))


def who_may_change_rules(world: World) -> tuple[object, object]:
    """Two who may change rules and saved replies: one whose own answers need approval, and one who may send."""
    from dataclasses import replace

    from sorta.core.permissions import HeldRole, Permission

    noor = world.scopes["noor"]
    held = frozenset(Permission) - {Permission.REPLY_WITHOUT_APPROVAL}
    return replace(noor, role=HeldRole(key="editor", name="Editor", grants=held)), noor


async def test_a_rule_sends_for_nobody_what_they_may_not_send_themselves(world: World) -> None:
    editor, noor = who_may_change_rules(world)
    house, now = world.house, world.now

    async def get(id: int) -> dict:
        return next(one for one in (await rules.list_rules(house, noor, now))["rules"] if one["id"] == id)

    for on in (True, False):
        with pytest.raises(NotAllowed, match="without approval"):
            await rules.add_rule(house, editor, ANSWERS, on=on, now=now)
    id = await rules.add_rule(house, noor, ANSWERS, on=False, now=now)
    version = (await get(id))["version"]
    for change in (
        {"body": None, "on": True},
        {"body": ANSWERS, "on": None},
        {"body": None, "on": None, "answers": True},
    ):
        with pytest.raises(NotAllowed, match="without approval"):
            await rules.set_rule(house, editor, id, version=version, now=now, **change)
    with pytest.raises(NotAllowed, match="without approval"):
        await rules.copy_rule(house, editor, id, now)
    await rules.set_rule(house, noor, id, body=None, on=True, version=version, now=now)
    # Anybody who may change rules can stop one.
    await rules.set_rule(house, editor, id, body=None, on=False, version=(await get(id))["version"], now=now)
    await rules.add_rule(
        house, editor, RuleBody(name="Other", when=ANY, then=(SetPriority(priority=Priority.HIGH),)), on=True, now=now
    )


async def test_what_a_running_rule_says_is_changed_by_who_may_say_it(world: World) -> None:
    editor, noor = who_may_change_rules(world)
    house, now = world.house, world.now
    body = SavedReplyBody(name="Hours", text="We open at nine.")
    saved = await texts.add_saved_reply(house, noor, body, now)
    new = SavedReplyBody(name="Hours", text="We will refund you in full.")
    await texts.set_saved_reply(house, editor, saved, body, now)
    rule = RuleBody(name="Hours", when=ANY, then=(AnswerWith(saved=saved),))
    await rules.add_rule(house, noor, rule, on=True, now=now)
    with pytest.raises(NotAllowed, match="without approval"):
        await texts.set_saved_reply(house, editor, saved, new, now)
    await texts.set_saved_reply(house, noor, saved, new, now)
