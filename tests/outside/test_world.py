"""Life on the networks goes on by a script: as a deck of cards, also over a restart."""

from pathlib import Path

from outside.app import make_app
from outside.state import State

SCRIPT = [
    {"network": "quillet", "kind": "talk", "handle": f"h{n}", "name": f"H{n}", "text": f"line {n}"} for n in range(9)
]


def test_each_line_is_said_once_before_any_comes_again(tmp_path: Path) -> None:
    state = State(str(tmp_path / "outside.sqlite"))
    state.set_setting("script", SCRIPT)
    for _ in range(3):
        # Begun anew each time, as somebody does who stops the demo and starts it again.
        world = make_app(state, "http://outside.test").state.world
        for _ in range(3):
            world.happen()
    said = [thing["content"] for thing in state.list_things("quillet")]
    assert sorted(said) == sorted(line["text"] for line in SCRIPT)
    # A shorter script that was set meanwhile names no line that there is not.
    world.happen()
    state.set_setting("script", SCRIPT[:2])
    for _ in range(4):
        world.happen()
    assert len(state.list_things("quillet")) == 14
