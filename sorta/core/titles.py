"""What things are called: a line of a bounded length, and where it names one of several, by no two. Used by services and core."""

from collections.abc import Collection

from sorta.core.errors import Invalid


def check_title(
    said: str, what: str, longest: int, *, where: str = "name", others: Collection[str] = (), one: str = "one"
) -> str:
    """A name as it is kept. `what` begins the sentence about its length; `others` are the names there are, each of which is of `one`.
    Raises Invalid, naming the field `where`."""
    name = " ".join(said.split())
    if not 1 <= len(name) <= longest or not name.isprintable():
        raise Invalid(f"{what} has 1 to {longest} characters.", where)
    if name.lower() in {other.lower() for other in others}:
        raise Invalid(f"There is {one} called {name} already.", where)
    return name
