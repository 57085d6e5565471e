"""What the desk shows first."""

from pydantic import BaseModel

from sorta.api.schemas import desk, people, setup, sorting, team


class Around(BaseModel):
    """Each part as its own address answers it."""

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
