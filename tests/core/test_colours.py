"""Contrast by WCAG 2.2, against values its working group's texts give, from memory: black on white 21, #777 on white 4.48 (fails), #767676 on white 4.54 (passes), #949494 on white
3.03 (passes for shapes)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.colours import SHAPE, TEXT, check_colour, get_contrast, get_ink, make_visible
from sorta.core.errors import Invalid

colours = st.integers(0, 0xFFFFFF).map(lambda n: f"#{n:06x}")


@pytest.mark.parametrize(
    ("one", "other", "ratio"),
    [
        ("#000000", "#ffffff", 21.0),
        ("#777777", "#ffffff", 4.48),
        ("#767676", "#ffffff", 4.54),
        ("#949494", "#ffffff", 3.03),
        ("#ffffff", "#ffffff", 1.0),
    ],
)
def test_contrast_is_that_of_the_standard(one: str, other: str, ratio: float) -> None:
    assert get_contrast(one, other) == get_contrast(other, one) == pytest.approx(ratio, abs=0.005)


@given(colours)
def test_something_can_be_read_on_any_colour(colour: str) -> None:
    assert get_contrast(get_ink(colour), colour) >= TEXT


@given(colours, st.sampled_from(["#fffdf8", "#f4f1ea", "#1a1c18", "#21241f", "#22251f", "#777777"]))
def test_any_colour_can_be_made_to_stand_out_and_stays_where_it_does(colour: str, ground: str) -> None:
    made = make_visible(colour, ground)
    assert get_contrast(made, ground) >= SHAPE
    assert check_colour(made) == made
    if get_contrast(colour, ground) >= SHAPE:
        assert made == colour


@pytest.mark.parametrize("said", ["", "#fff", "14564a", "#14564g", "red", "#14564a;}", "#14564a\n#"])
def test_what_is_no_colour_is_refused(said: str) -> None:
    with pytest.raises(Invalid):
        check_colour(said)
    assert check_colour(" #14564A ") == "#14564a"
