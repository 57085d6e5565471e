"""What a rule left undone, and why, in words."""

import pytest

from sorta.core.not_done import NotDone, list_not_done, say_why


@pytest.mark.parametrize("why", NotDone)
def test_each_reason_has_words_of_its_own(why: NotDone) -> None:
    said = say_why(why)
    assert said != why
    assert said.endswith(".")
    assert [other for other in NotDone if say_why(other) == said] == [why]


def test_what_a_network_cannot_do_is_said_in_its_own_words() -> None:
    lost = [{"effect": "hide", "why": "Quillet has no hiding."}]
    assert list_not_done("Rude", [], lost) == ["The rule “Rude” did not hide it: Quillet has no hiding."]


def test_what_was_decided_before_is_left_to_the_trail() -> None:
    assert list_not_done("Late", ["tag"], [{"effect": "priority", "to": 7}, {"effect": "tag", "to": None}]) == []


def test_an_answer_for_another_language_is_told_of_once_and_only_where_none_went_out() -> None:
    lost = [{"effect": "reply", "why": "language"}] * 2
    assert list_not_done("Hello", ["reply"], lost) == []
    told = ["The rule “Hello” did not answer: its answer is not written for their language."]
    assert list_not_done("Hello", [], lost) == told
