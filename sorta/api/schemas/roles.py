"""Shapes of roles."""

from datetime import datetime

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.permissions import Permission


class RoleOne(BaseModel):
    """A named set of permissions; `members` have it now. One that is a workspace's own can be removed."""

    key: str
    name: str
    is_own: bool
    permissions: list[Permission]
    members: list[int]


class PermissionOne(BaseModel):
    """`words` go after 'may'."""

    key: Permission
    words: str


class AboutMember(BaseModel):
    """What who manages members sees of each."""

    member_id: int
    email: str
    seen_at: datetime | None = Field(description="When they last used Sorta, as far as it is kept")
    teams: list[str]
    limited: bool = Field(description="Whether they see the accounts of their groups only")
    languages: list[str] = Field(description="Which they are given; none is any")


class Roles(BaseModel):
    """`mine` is the key of one's own role; `about` is empty for who does not manage members."""

    roles: list[RoleOne]
    about: list[AboutMember]
    permissions: list[PermissionOne]
    mine: str


class RoleBody(Asked):
    name: str = Field(max_length=200)
    permissions: list[Permission]


class Work(BaseModel):
    """What would be without its member: how much of each, and what names them."""

    open: int
    proposals: int = Field(description="Answers of theirs that wait for approval")
    asked: int = Field(description="Answers of others that they are asked to approve")
    scheduled: int
    follow_ups: int
    drafts: int
    teams: list[str]
    policies: list[str]
    rules: list[str]


class Heirs(Asked):
    """Who gets the open work of somebody who leaves: a member, a team, or neither for nobody in particular."""

    to_owner: int | None = None
    to_team: int | None = None


class PassedOn(BaseModel):
    conversations: int


class RoleAdded(BaseModel):
    key: str


class GivenRole(Asked):
    role: str = Field(max_length=80)
