"""Shapes of account groups, and of what members see."""

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked


class AccountGroup(BaseModel):
    """A named set of accounts with the members who look after them."""

    id: int
    name: str
    accounts: list[int]
    members: list[int]


class GroupBody(Asked):
    name: str = Field(max_length=200)
    accounts: list[int] = Field(max_length=1000)
    members: list[int] = Field(max_length=1000)


class GroupAdded(BaseModel):
    id: int


class Sight(Asked):
    """What a member sees: every account, or, when limited, the accounts of their groups."""

    limited: bool
    groups: list[int] = Field(max_length=200)
