"""Intervals against published values and a reference library."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats
from scipy.stats import binomtest

from sorta.core.intervals import get_binomial_quantile, get_share


@pytest.mark.parametrize(
    ("hits", "of", "low", "high"),
    [(81, 263, 0.255289, 0.366210), (15, 148, 0.062386, 0.160487), (0, 20, 0.0, 0.161125), (1, 29, 0.006113, 0.171755)],
)
def test_wilsons_interval(hits: int, of: int, low: float, high: float) -> None:
    """docs/references.md 2: Newcombe 1998 (from memory), equal in SciPy and statsmodels."""
    share = get_share(hits, of)
    assert (share.low, share.high) == (pytest.approx(low, abs=1e-6), pytest.approx(high, abs=1e-6))


@given(st.integers(1, 400).flatmap(lambda of: st.tuples(st.integers(0, of), st.just(of))))
def test_it_is_that_of_the_reference(case: tuple[int, int]) -> None:
    """SciPy: binomtest(...).proportion_ci(method='wilson')."""
    hits, of = case
    expected = binomtest(hits, of).proportion_ci(method="wilson")
    share = get_share(hits, of)
    assert share.low == pytest.approx(expected.low, abs=1e-9)
    assert share.high == pytest.approx(expected.high, abs=1e-9)
    assert share.is_too_few == (of < 5)


@pytest.mark.parametrize(("hits", "of"), [(-1, 3), (4, 3)])
def test_what_is_no_share_is_refused(hits: int, of: int) -> None:
    with pytest.raises(ValueError, match="no share"):
        get_share(hits, of)


def test_nothing_says_nothing() -> None:
    assert (get_share(0, 0).low, get_share(0, 0).high) == (0.0, 1.0)


@given(st.integers(1, 400), st.floats(0.01, 0.99), st.floats(0.001, 0.999))
def test_a_binomial_quantile_is_scipys(n: int, q: float, p: float) -> None:
    """scipy.stats.binom.ppf; where the chance of as many is `p` itself, either of two neighbours, for sums of floats differ."""
    ours, theirs = get_binomial_quantile(p, n, q), int(stats.binom.ppf(p, n, q))
    assert ours == theirs or (
        abs(ours - theirs) == 1 and float(stats.binom.cdf(min(ours, theirs), n, q)) == pytest.approx(p, abs=1e-9)
    )


@pytest.mark.parametrize("n", [1, 3, 57, 99, 399])
def test_the_middle_of_an_odd_number_is_its_middle(n: int) -> None:
    """By symmetry half the chance lies at (n - 1) / 2 and below."""
    assert get_binomial_quantile(0.5, n, 0.5) == (n - 1) // 2
