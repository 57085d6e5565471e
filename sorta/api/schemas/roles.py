"""Shapes of roles."""

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


class Roles(BaseModel):
    """`mine` is the key of one's own role."""

    roles: list[RoleOne]
    permissions: list[PermissionOne]
    mine: str


class RoleBody(Asked):
    name: str = Field(max_length=200)
    permissions: list[Permission]


class RoleAdded(BaseModel):
    key: str


class GivenRole(Asked):
    role: str = Field(max_length=80)
