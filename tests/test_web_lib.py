"""What the web computes by itself, without a browser: bundled as the pages are, run by Node, held against something else."""

import json
import subprocess
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.api.schemas.acts import OneAct
from sorta.core import events
from sorta.core.answers import count_graphemes
from sorta.core.facts import Facts
from sorta.core.moves import apply
from sorta.core.targets import get_band

NOW = datetime(2026, 11, 20, 12, 0, tzinfo=UTC)
ROOT = Path(__file__).parent.parent
WEB = ROOT / "web"
#: Parts of what an API answers.
ANSWERS = st.recursive(
    st.none() | st.booleans() | st.integers(-3, 3) | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from("abc"), inner, max_size=3),
    max_leaves=12,
)
#: Reads lines of JSON, says of each what it makes of it. `isDeepStrictEqual` is Node's own.
ASKED = """
import { createInterface } from 'node:readline'
import { isDeepStrictEqual } from 'node:util'
import { foresee } from '@/features/desk/foresee'
import { getBand } from '@/lib/bands'
import { keepSame } from '@/lib/keepSame'
import { countGraphemes } from '@/lib/words'

/** Whether every part that is as it was is the very part it was. */
function isShared(had: any, made: any): boolean {
  if (typeof made !== 'object' || made === null) return true
  if (isDeepStrictEqual(had, made)) return had === made
  return Object.keys(made).every((key) => isShared(had?.[key], made[key]))
}
for await (const line of createInterface({ input: process.stdin })) {
  const { had, found, text, due, edges, act, me } = JSON.parse(line)
  const made = keepSame(had, found)
  const band = edges ? getBand(due, edges) : null
  const foreseen = act ? foresee(had, act, me) : null
  console.log(JSON.stringify({ made, isShared: isShared(had, made), length: countGraphemes(text), band, foreseen }))
}
"""


class Asking:
    """Node with the web's own code in it, asked a line at a time."""

    def __init__(self, folder: Path) -> None:
        node = subprocess.run(
            ["bash", "dev/node.sh"], cwd=ROOT, check=True, capture_output=True, text=True
        ).stdout.strip()
        source, config, made = folder / "asked.ts", folder / "rolldown.config.mjs", folder / "asked.mjs"
        source.write_text(ASKED)
        config.write_text(
            f"export default {{ input: {json.dumps(str(source))}, platform: 'node',"
            f" resolve: {{ alias: {{ '@': {json.dumps(str(WEB / 'src'))} }} }},"
            f" output: {{ file: {json.dumps(str(made))}, format: 'esm' }} }}"
        )
        bundle = [f"{node}/node", str(WEB / "node_modules/rolldown/bin/cli.mjs"), "-c", str(config)]
        subprocess.run(bundle, cwd=WEB, check=True, capture_output=True)
        self._process = subprocess.Popen(
            [f"{node}/node", str(made)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def ask(self, **asked: Any) -> dict[str, Any]:
        assert self._process.stdin is not None
        assert self._process.stdout is not None
        self._process.stdin.write(json.dumps(asked) + "\n")
        self._process.stdin.flush()
        told: dict[str, Any] = json.loads(self._process.stdout.readline())
        return told

    def close(self) -> None:
        self._process.terminate()
        self._process.communicate()


@pytest.fixture(scope="module")
def web(tmp_path_factory: pytest.TempPathFactory) -> Any:
    asking = Asking(tmp_path_factory.mktemp("web"))
    yield asking
    asking.close()


@given(ANSWERS, ANSWERS, st.booleans())
def test_what_is_kept_is_what_was_found_and_what_is_alike_is_the_same(
    web: Asking, had: Any, found: Any, is_within: bool
) -> None:
    if is_within:
        had, found = {"a": had, "b": found}, {"a": had, "b": [found]}
    told = web.ask(had=had, found=found, text="")
    assert json.dumps(told["made"], sort_keys=True) == json.dumps(found, sort_keys=True)
    assert told["isShared"]


@given(st.text(max_size=60))
def test_a_reply_is_as_long_here_as_there(web: Asking, text: str) -> None:
    """Both count extended grapheme clusters (UAX #29): the core by the regex package, the browser by ICU."""
    assert web.ask(had=None, found=None, text=text)["length"] == count_graphemes(text)


@given(
    st.integers(1, 24 * 3600).map(lambda seconds: timedelta(seconds=seconds)),
    st.none() | st.sampled_from(["now", "hour", "today"]),
    st.sampled_from([-1, 0, 1]) | st.integers(-200_000_000, 200_000_000),
)
def test_a_due_is_in_the_band_that_the_core_says(web: Asking, ends_in: timedelta, edge: str | None, off: int) -> None:
    """At each edge, a thousandth before and after it, and anywhere; a browser counts in thousandths."""
    now = datetime(2026, 10, 25, 0, 30, tzinfo=UTC)
    edges = {"now": now, "hour": now + timedelta(hours=1), "today": now + ends_in}
    due = None if edge is None else edges[edge] + timedelta(milliseconds=off)
    said = {name: at.isoformat() for name, at in edges.items()}
    told = web.ask(had=None, found=None, text="", due=due and due.isoformat(), edges=said)
    assert told["band"] == get_band(due, now, edges["today"])


SOMEBODY = st.integers(1, 4)


@given(
    st.builds(
        Facts,
        owner=st.none() | SOMEBODY,
        team=st.none() | SOMEBODY,
        watchers=st.lists(SOMEBODY, unique=True).map(tuple),
    ),
    st.builds(lambda on: {"act": "watch", "on": on}, st.booleans())
    | st.builds(lambda to: {"act": "assign", "owner_id": to, "team_id": None}, st.none() | SOMEBODY)
    | st.builds(lambda to: {"act": "assign", "owner_id": None, "team_id": to}, SOMEBODY)
    | st.just({"act": "keep"}),
    SOMEBODY,
)
def test_what_is_shown_before_the_answer_is_what_the_core_makes_of_the_act(
    web: Asking, facts: Facts, act: dict[str, Any], me: int
) -> None:
    """Who has it and who watches it; which team keeps it beside a colleague is for the server to say and is not shown."""
    OneAct.model_validate({"act": act, "seen_seq": 1})
    had = {"owner_id": facts.owner, "team_id": facts.team, "watchers": list(facts.watchers), "priority": 2}
    foreseen = web.ask(had=had, found=had, text="", act=act, me=me)["foreseen"]
    what: events.What = events.Kept()
    if act["act"] == "watch":
        what = events.Watched(member=me) if act["on"] else events.Unwatched(member=me)
    elif act["act"] == "assign":
        what = events.Assigned(owner=act["owner_id"], team=act["team_id"])
    after = apply(facts, events.Event(seq=1, at=NOW, what=what, member_id=me))
    assert foreseen["owner_id"] == after.owner
    assert sorted(foreseen["watchers"]) == sorted(after.watchers)
    assert foreseen["priority"] == 2
    if after.owner is None:
        assert foreseen["team_id"] == (facts.team if act["act"] in ("keep", "watch") else after.team)
