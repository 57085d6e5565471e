"""Shapes of what members do: acts, several at once, acts on networks, replies, and taking back."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.answers import Extras
from sorta.core.facts import SettledAs
from sorta.core.parking import ParkFor
from sorta.core.ports import Moderation
from sorta.core.reading import ReadsAs


class Assign(Asked):
    act: Literal["assign"]
    owner_id: int | None
    team_id: int | None = None
    note: str | None = None


class Prioritise(Asked):
    act: Literal["prioritise"]
    priority: Annotated[int, Field(ge=0, le=3)]


class Note(Asked):
    act: Literal["note"]
    text: str


class Keep(Asked):
    act: Literal["keep"]


class Park(Asked):
    act: Literal["park"]
    choice: ParkFor | None = None
    until: datetime | None = None


class Settle(Asked):
    act: Literal["settle"]
    how: SettledAs


class HandOver(Asked):
    """To a support desk, with a note for its people."""

    act: Literal["hand_over"]
    desk_id: int
    note: str | None = Field(None, max_length=4000)


class Reopen(Asked):
    """A settled conversation is our move again."""

    act: Literal["reopen"]


class Tag(Asked):
    """A tag on the conversation or, with `person`, on whom it is with; off with `on` false."""

    act: Literal["tag"]
    name: str = Field(max_length=200)
    on: bool = True
    person: bool = False


class Watch(Asked):
    act: Literal["watch"]
    on: bool = True


class Correct(Asked):
    """A member's word on a message: sentiment negative, neutral or positive; what it reads as; language."""

    act: Literal["correct"]
    message_id: int
    field: Literal["sentiment", "reads_as", "language"]
    value: str | list[ReadsAs] | None = Field(
        None, description="For what it reads as all the labels, none for none of them"
    )


class AnswerWith(Asked):
    """Answer as they spoke to us, with the words of a saved reply made out to each."""

    act: Literal["answer"]
    saved_reply: int
    settle: bool = False


class ModerateLast(Asked):
    """Ask the network for something about the last message of theirs."""

    act: Literal["moderate"]
    what: Literal[Moderation.LIKE, Moderation.HIDE]


class TranslateLast(Asked):
    """The last message of theirs in another language, kept beside it; nothing of the trail, so nothing to take back."""

    act: Literal["translate"]
    language: str = Field(pattern=r"^[a-z]{2}$")


Act = Annotated[
    Assign
    | Prioritise
    | Note
    | Keep
    | Park
    | Settle
    | HandOver
    | Reopen
    | Tag
    | Watch
    | Correct
    | AnswerWith
    | ModerateLast
    | TranslateLast,
    Field(discriminator="act"),
]


class OneAct(Asked):
    """One act; `seen_seq` is the newest number of the conversation's trail that its author has seen, `with_sheet` asks for the
    conversation as it is after it."""

    seen_seq: int = Field(ge=0)
    act: Act
    with_sheet: bool = False


class Aim(Asked):
    """A conversation that an act is meant for, as far as its author has seen it."""

    id: int
    seen_seq: int = Field(ge=0)


class Many(Asked):
    """One act on several conversations."""

    on: list[Aim] = Field(min_length=1, max_length=100)
    act: Act


class DoneOne(Asked):
    id: int
    seq: int


class FailedOne(BaseModel):
    id: int
    reason: str


class DoneMany(BaseModel):
    """An honest report: what was done, and what was not with its reason."""

    done: list[DoneOne]
    failed: list[FailedOne]


class UndoMany(Asked):
    acts: list[DoneOne] = Field(min_length=1, max_length=100)


class Moderate(Asked):
    what: Moderation


class DoneThere(BaseModel):
    conversation_id: int
    seq: int


class Written(Asked):
    """What a reply was before it was translated, and in which language."""

    text: str = Field(max_length=20000)
    language: str = Field(pattern=r"^[a-z]{2}$")


class Reply(Asked):
    """`seen_seq` is the newest trail number that its author has seen; `written` is kept beside a translation,
    `saved_reply` is the one it was made from."""

    public: bool
    text: str = Field(max_length=20000)
    seen_seq: int = Field(ge=0)
    settle: bool = False
    written: Written | None = None
    saved_reply: int | None = None
    attachments: list[int] = Field([], max_length=20)
    account: int | None = Field(None, description="Another account of the same network, to answer instead")

    def get_extras(self) -> Extras:
        """What comes with it beside its words."""
        written = (self.written.text, self.written.language) if self.written else None
        return Extras(
            written=written,
            saved_reply=self.saved_reply,
            attachments=tuple(self.attachments),
            account=self.account,
        )


class Done(BaseModel):
    """The act's number in the trail, for undoing it."""

    seq: int


class Undo(Asked):
    seq: int
