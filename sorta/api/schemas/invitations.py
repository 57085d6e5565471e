"""Shapes of invitations and of coming in."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked


class NewInvitations(Asked):
    """Who is invited: addresses, whatever separates them, and as what."""

    emails: str = Field(max_length=20_000)
    role: str = Field(max_length=60)
    limited: bool = Field(False, description="Whether they see the accounts of their groups only")
    groups: list[int] = Field([], max_length=200)
    teams: list[int] = Field([], max_length=200)


class Invited(BaseModel):
    """What became of each address."""

    invited: list[str]
    already: list[str] = Field(description="They work here")
    joined: list[str] = Field(description="They have an account, and work here from now on")
    wrong: list[str]


class Invitation(BaseModel):
    """Somebody who has been invited and has not come."""

    id: int
    email: str
    role: str
    role_name: str
    limited: bool
    groups: list[int]
    teams: list[int]
    made_at: datetime
    made_by_name: str
    expires_at: datetime
    is_over: bool
    address: str | None = Field(description="The link, for who holds all that its role holds")
    mail_state: Literal["none", "waiting", "sent", "refused"]
    mail_problem: str | None


class Welcome(BaseModel):
    """What a link leads to; without a workspace, the first one is to be made."""

    email: str | None
    workspace: str | None
    role: str | None
    invited_by: str | None
    has_account: bool


class Coming(Asked):
    """Who comes in; the first Owner also says what is made."""

    name: str = Field("", max_length=200)
    password: str = Field(max_length=1000)
    email: str = Field("", max_length=320)
    organisation: str = Field("", max_length=200)
    workspace: str = Field("", max_length=200)
    time_zone: str = Field("", max_length=60)


class NewPassword(Asked):
    """The present password and another one."""

    before: str = Field(max_length=1000)
    password: str = Field(max_length=1000)


class ForgottenPassword(Asked):
    """Whose password is forgotten."""

    email: str = Field(max_length=320)


class PasswordByLink(Asked):
    """Another password, by a link."""

    password: str = Field(max_length=1000)
