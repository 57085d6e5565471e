"""Shapes of signing in."""

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.permissions import Permission


class SignIn(Asked):
    email: str = Field(max_length=254)
    password: str = Field(max_length=1024)


class Workspace(BaseModel):
    id: int
    heard: str = Field(description="A mark of what has been told live until now, for the live stream's `since`")
    name: str
    time_zone: str
    role: str
    permissions: list[Permission]
    limited: bool = Field(description="Sees the accounts of their groups only")
    needs_second: bool = Field(description="Whether it asks for a second step at signing in")
    languages: list[str] = Field(description="Those its team reads; it writes in the first")
    colour: str | None
    ink: str | None = Field(description="What can be read on its colour")
    picture: str | None = Field(description="By which it is known whether the picture is another by now")
    send_settles: bool = Field(description="Whether sending an answer settles unless it is said otherwise")


SingleKeys = Literal["plain", "alt", "off"]
Theme = Literal["device", "light", "dark"]
TextSize = Literal[90, 100, 115, 130, 150]
Density = Literal["full", "compact"]
Strip = Literal["open", "folded"]
Tab = Literal["mine", "team", "all"]


class Screen(BaseModel):
    """How a member wants the screen."""

    single_keys: SingleKeys = Field(
        description="Whether single-character keys act as they are, only together with Alt, or not at all (WCAG 2.1.4)"
    )
    theme: Theme = Field(description="Light, dark, or as the device has it")
    text_size: TextSize = Field(description="In per cent")
    density: Density = Field(description="Whether a row of the desk shows two lines of what was said, or one")
    strip: Strip = Field(description="Whether the strip of what is due is shown whole, or as a line")
    tab: Tab = Field(
        description="What the number on the browser's tab counts: what waits for oneself, also for one's teams, or for all"
    )
    shown_around: bool = Field(description="Whether one has been shown around the desk, which is done once")


class ScreenWish(Asked):
    """What is to be another way from now on; the rest stays."""

    single_keys: SingleKeys | None = None
    theme: Theme | None = None
    text_size: TextSize | None = None
    density: Density | None = None
    strip: Strip | None = None
    tab: Tab | None = None
    shown_around: bool | None = None


class Session(BaseModel):
    """Who is signed in; `csrf` goes into the header X-CSRF-Token of every write, `member_id` into X-Member of
    every request."""

    member_id: int
    name: str
    initials: str
    email: str
    csrf: str
    screen: Screen
    has_second: bool = Field(description="Whether they sign in with a second step")
    undo_seconds: float = Field(description="For how long what goes out is held back, so that it can be taken back")
    workspaces: list[Workspace]


class Code(Asked):
    """A code of an app, or a recovery code."""

    code: str = Field(max_length=100)


class Phone(Asked):
    phone: str = Field(max_length=60, description="With its country, like +45 12 34 56 78")


class KnownPhone(BaseModel):
    phone: str


class PresentPassword(Asked):
    password: str = Field(max_length=1024)


class SecondSetup(BaseModel):
    """A secret for an app that shows codes (RFC 6238): as a picture (SVG) to be read, and to be typed."""

    picture: str
    secret: str


class RecoveryCodes(BaseModel):
    """Shown this once; each can be used once."""

    codes: list[str]


class OneSession(BaseModel):
    id: int
    created_at: datetime
    seen_at: datetime
    came_from: str
    browser: str
    is_this: bool


class SignInWays(BaseModel):
    """How one may sign in here, besides by a password."""

    passkeys: bool
    provider: str | None = Field(description="What the provider is called by which members sign in (OpenID Connect)")


class ProviderAsked(BaseModel):
    """The provider's page where somebody says who they are."""

    address: str


class ProviderAnswer(Asked):
    """The query with which the provider sent somebody back."""

    response: str = Field(max_length=8192)


class ProviderGroup(BaseModel):
    id: int
    name: str
    role: str
    role_name: str


class ProviderGroups(BaseModel):
    """Which of the provider's groups work in a workspace as what; those named first come first for who is in several."""

    provider: str | None
    groups: list[ProviderGroup]


class NewProviderGroup(Asked):
    name: str = Field(max_length=255)
    role: str = Field(max_length=60)


class ProviderGroupId(BaseModel):
    id: int


class OnePasskey(BaseModel):
    id: int
    name: str
    made_at: datetime
    used_at: datetime | None


class PasskeyAsked(BaseModel):
    """What the browser's own interface is asked (WebAuthn, PublicKeyCredentialCreationOptions or …RequestOptions in JSON)."""

    options: dict[str, Any]


class ShownPasskey(Asked):
    """What the browser answered (WebAuthn, AuthenticationResponseJSON)."""

    credential: dict[str, Any]


class NewPasskey(Asked):
    """What the browser made (WebAuthn, RegistrationResponseJSON), and what its owner calls it."""

    credential: dict[str, Any]
    name: str = Field(max_length=200)


class OwnAccount(BaseModel):
    """How somebody signs in, and where they are signed in."""

    is_on: bool = Field(description="Whether there is a second step, of whichever kind")
    has_app: bool = Field(description="Whether the codes of an app are one")
    passkeys: list[OnePasskey]
    has_password: bool = Field(description="Without one, what asks for it is allowed for ten minutes after coming in")
    takes_passkeys: bool = Field(description="Whether browsers know passkeys at the address of this installation")
    codes_left: int
    sessions: list[OneSession]


class SecondNeeds(BaseModel):
    """Whether a workspace asks for a second step, and the members who have none."""

    needs_second: bool
    lacking: list[str]


class SetSecondNeeds(Asked):
    needs_second: bool


class DemoAccount(BaseModel):
    name: str
    email: str
    about: str


class Demo(BaseModel):
    """The demo's accounts and their one password; null where this is no demo."""

    password: str | None
    accounts: list[DemoAccount]
