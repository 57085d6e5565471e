"""Shapes of signing in."""

from typing import Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.permissions import Permission


class SignIn(Asked):
    email: str = Field(max_length=254)
    password: str = Field(max_length=1024)


class Workspace(BaseModel):
    id: int
    name: str
    time_zone: str
    role: str
    permissions: list[Permission]


SingleKeys = Literal["plain", "alt", "off"]


class Keys(Asked):
    """Whether single-character keys act as they are, only together with Alt, or not at all (WCAG 2.1.4)."""

    single_keys: SingleKeys


class Session(BaseModel):
    """Who is signed in; `csrf` goes into the header X-CSRF-Token of every write, `member_id` into X-Member of
    every request."""

    member_id: int
    name: str
    initials: str
    email: str
    csrf: str
    single_keys: SingleKeys
    workspaces: list[Workspace]


class DemoAccount(BaseModel):
    name: str
    email: str
    about: str


class Demo(BaseModel):
    """The demo's accounts and their one password; null where this is no demo."""

    password: str | None
    accounts: list[DemoAccount]
