"""What the desk shows first."""

from pydantic import BaseModel

from sorta.api.schemas import desk, people, session, setup, sorting, team


class Around(BaseModel):
    """Each part as its own address answers it; a program has no session."""

    session: session.Session | None

    members: list[desk.Member]
    networks: list[setup.Network]
    accounts: list[setup.Account]
    directory: sorting.Directory
    views: list[sorting.View]
    counts: desk.Counts
    presence: list[desk.Present]
    waiting: people.Waiting
    horizon: team.Horizon


class First(Around):
    """The same with a page of the queue."""

    page: desk.Page
