"""Who may be the same person, and tables that other programs open safely."""

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sorta.core.errors import Invalid
from sorta.core.people import JoinCandidate, Mark, check_fact, find_marks, fold_name, list_conflicting, suggest
from sorta.core.tables import neutralise, write_csv


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("write to Jo.Castell@Example.org please", [("mail", "jo.castell@example.org")]),
        ("my number is B-2207.", [("number", "B-2207")]),
        ("b-2207 and B-2207 again", [("number", "B-2207")]),
        ("first k@a.example, then AB-123", [("mail", "k@a.example"), ("number", "AB-123")]),
        ("@brinewick is no mail, 48-1930 is a booking", []),
        ("x@localhost", []),
        ("re-2207-x", []),
        ("covid-19", []),
        ("dates as ISO-8601 or DIN-5008 has them", []),
        ("iso-9001", []),
        ("EN-123 but ENA-123", [("number", "ENA-123")]),
    ],
)
def test_marks_in_a_text(text: str, expected: list[tuple[str, str]]) -> None:
    assert [(m.kind, m.value) for m in find_marks(text)] == expected


@pytest.mark.parametrize(
    "address", ["simple@example.com", "very.common@example.com", "user+tag@example.co.uk", "x@sub.example.org"]
)
def test_addresses_of_the_dot_atom_form(address: str) -> None:
    """RFC 5322, 3.2.3 and 3.4.1 (dot-atom), forms written down from memory."""
    assert [m.value for m in find_marks(f"my address: {address}, thanks")] == [address]


@given(st.text())
def test_any_text_is_searched(text: str) -> None:
    marks = find_marks(text)
    assert len(set(marks)) == len(marks)


def test_suggestions_name_their_reasons_and_the_strongest_comes_first() -> None:
    mail, number = Mark(kind="mail", value="a@b.example"), Mark(kind="number", value="B-2207")
    found = suggest(
        "Jorinde Castell",
        [
            JoinCandidate(person_id=1, name="jorinde  CASTELL"),
            JoinCandidate(person_id=2, name="J", shared=(mail, number)),
            JoinCandidate(person_id=3, name="Somebody else"),
            JoinCandidate(person_id=4, name="Jörinde Castell", shared=(number,)),
            JoinCandidate(person_id=5, name="Q", shared=(mail,)),
        ],
    )
    assert [s.person_id for s in found] == [2, 4, 5, 1]
    assert found[1].reasons == ("same customer number B-2207", "same name")


def test_names_are_the_same_whatever_their_case_accents_and_width() -> None:
    """NFKD as in UAX #15: full-width letters and combining marks fold; so do letters without a decomposition, as in rules."""
    assert fold_name(" Lucía  ORTEGA ") == fold_name("Ｌｕｃｉａ ortega")
    assert fold_name("Sørby") == fold_name("Sorby")


@pytest.mark.parametrize(("name", "value"), [("", "x"), ("x", "  "), ("y" * 41, "x"), ("x", "y" * 2001)])
def test_a_fact_says_what_it_is(name: str, value: str) -> None:
    with pytest.raises(Invalid):
        check_fact(name, value)


def test_csv_as_rfc_4180_has_it() -> None:
    """RFC 4180, 2.5 to 2.7: quotes doubled, commas and line breaks inside quotes, CRLF at the end."""
    assert write_csv(["a", "b", "c"], [["aaa", 'b "quoted" bb', "c,c"]]) == 'a,b,c\r\naaa,"b ""quoted"" bb","c,c"\r\n'


@given(st.lists(st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\x00\r\n")), min_size=2, max_size=2)))
def test_what_is_written_is_read_back(rows: list[list[str]]) -> None:
    read = list(csv.reader(io.StringIO(write_csv(["x", "y"], rows), newline="")))
    assert read[1:] == [[neutralise(cell) for cell in row] for row in rows]
    assert not any(cell.startswith(("=", "+", "-", "@", "\t")) for row in read for cell in row)


@pytest.mark.parametrize(
    ("facts", "conflicting"),
    [
        ([("Customer number", "B-2207"), ("Customer number", "B-2207")], set()),
        ([("Customer number", "B-2207"), ("customer  number", "b-2207 ")], set()),
        ([("Customer number", "B-2207"), ("customer number", "B-2208")], {"Customer number", "customer number"}),
        ([("Pass", "family"), ("Mail", "a@b.example"), ("Mail", "c@d.example")], {"Mail"}),
        # Notes are many, and none is another's opposite.
        ([("Note", "calls"), ("note", "writes")], set()),
        ([], set()),
    ],
)
def test_two_values_under_one_name_are_marked(facts: list[tuple[str, str]], conflicting: set[str]) -> None:
    assert list_conflicting(facts) == conflicting
