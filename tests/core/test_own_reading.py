"""When a workspace's own reading is learned, and when it takes over; F1 against scikit-learn's."""

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from sklearn.metrics import f1_score

from sorta.core.learned import LABELS
from sorta.core.own_reading import FEWEST, FEWEST_NEW, NO_WORSE_BY, Marks, Told, compare, get_macro_f1, is_due, mark

LABELLED = st.lists(st.tuples(*[st.frozensets(st.sampled_from(LABELS))] * 2), min_size=1, max_size=30)


@given(LABELLED)
def test_macro_f1_is_that_of_scikit_learn(pairs: list[tuple[frozenset[str], frozenset[str]]]) -> None:
    read, held = [r for r, _ in pairs], [h for _, h in pairs]
    there = [label for label in LABELS if any(label in r or label in h for r, h in pairs)]
    if not there:
        assert get_macro_f1(read, held) == 0.0
        return
    rows = [[[label in one for label in there] for one in of] for of in (held, read)]
    # A single column would be taken for two classes.
    average = "binary" if len(there) == 1 else "macro"
    flat = [[row[0] for row in of] for of in rows] if len(there) == 1 else rows
    assert get_macro_f1(read, held) == pytest.approx(f1_score(*flat, average=average, zero_division=0.0))


def test_it_is_due_with_20_and_again_with_10_more() -> None:
    assert not is_due(FEWEST - 1, None)
    assert is_due(FEWEST, None)
    assert not is_due(FEWEST + FEWEST_NEW - 1, FEWEST)
    assert is_due(FEWEST + FEWEST_NEW, FEWEST)
    assert is_due(FEWEST, FEWEST, is_other_base=True)
    assert not is_due(FEWEST - 1, None, is_other_base=True)


def make_told(count: int) -> list[Told]:
    return [Told(message=n, text=f"text {n}", labels=frozenset({"question"}), tone="neutral") for n in range(count)]


def test_about_half_is_kept_for_checking_and_always_the_same() -> None:
    kept = {t.message for t in make_told(1000) if t.is_kept}
    assert 440 < len(kept) < 560
    assert kept == {t.message for t in make_told(1000) if replace(t, text="edited", tone="negative").is_kept}


def test_it_takes_over_when_it_is_better_here_and_no_worse_elsewhere() -> None:
    told = make_told(40)
    kept = [t.message for t in told if t.is_kept]
    before = mark(told, [frozenset()] * len(kept), f1=0.8)
    assert before.right == frozenset()
    one = mark(told, [frozenset({"question"}), *[frozenset()] * (len(kept) - 1)], f1=0.8)
    assert one.right == {kept[0]}
    better = compare(told, before, one)
    assert (better.takes_over, better.learned, better.kept) == (True, 40 - len(kept), len(kept))
    assert (better.better, better.worse) == ((kept[0],), ())
    assert not compare(told, before, before).takes_over
    assert not compare(told, one, before).takes_over
    assert compare(told, one, before).worse == (kept[0],)
    assert compare(told, before, Marks(f1=0.8 - NO_WORSE_BY, right=one.right)).takes_over
    assert not compare(told, before, Marks(f1=0.8 - NO_WORSE_BY - 0.001, right=one.right)).takes_over
