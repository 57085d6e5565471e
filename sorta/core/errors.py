"""Every refusal the trade knows, as one tree; the web API maps it to problem details.

SortaError
├── NotFound          nothing by that id here (or not for you: the two look alike on purpose)
├── NotAllowed        the member's role does not hold the permission
│   └── NotOurPage    a write without the session's own word: from another site's page, or from before signing in again
├── AnotherMember     the page is somebody's who is not signed in here any more
├── SignInRefused     wrong e-mail address or password, not saying which
├── TooManyTries      repeated wrong passwords; carries the pause in seconds
├── Invalid           a value cannot be used; carries the field
├── AskFirst          it can be kept, and looks like a slip: whoever does it is asked; carries the questions
├── Impossible        the network cannot do it; carries the network's reason
├── MovedOn           the conversation changed since its author saw it; carries what is new
├── ChangedElsewhere  somebody (perhaps oneself, in another place) changed the same thing since it was read
├── NeedsApproval     the reply may not go out without somebody's consent
├── TooLate           the act can no longer be undone
├── Busy              as much is being done as can be at once; carries the pause in seconds
└── Unreadable        an activity from a network is malformed or of an unknown kind
"""


class SortaError(Exception):
    """Base of all refusals; `str()` of it is a sentence for a person."""

    def __init__(self, message: str) -> None:
        super().__init__(message)
        self.message = message


class NotFound(SortaError):
    """Nothing by that id in this workspace."""


class NotAllowed(SortaError):
    """The member's role lacks the permission that the act needs."""


class NotOurPage(NotAllowed):
    """A write does not carry the word of the session it comes with."""


class AnotherMember(SortaError):
    """The page was opened by one member, and another is signed in in the same browser by now."""


class SignInRefused(SortaError):
    """E-mail address and password do not belong together; never says which is wrong."""


class SecondStep(SortaError):
    """The password was right, and the second step is still to be shown."""


class SecondNeeded(NotAllowed):
    """The workspace asks for a second step at signing in, and the member has none."""


class TooManyTries(SortaError):
    """Signing in is slowed; `retry_after` is the pause in seconds."""

    def __init__(self, message: str, retry_after: int) -> None:
        super().__init__(message)
        self.retry_after = retry_after


class Busy(SortaError):
    """As much is being done as can be at once, for this caller or for all; `retry_after` is the pause in seconds."""

    def __init__(self, message: str, retry_after: int) -> None:
        super().__init__(message)
        self.retry_after = retry_after


class NoRoom(SortaError):
    """Nothing more can be kept: a quota is used up, or the disk is full."""


class Invalid(SortaError):
    """A value cannot be used; `field` names it."""

    def __init__(self, message: str, field: str) -> None:
        super().__init__(message)
        self.field = field


class AskFirst(SortaError):
    """It can be kept so and looks like a slip of the pen; `questions` are sentences. Said again with 'sure', it is kept."""

    def __init__(self, questions: tuple[str, ...]) -> None:
        super().__init__(" ".join(questions))
        self.questions = questions


class Impossible(SortaError):
    """What was asked for cannot be done: the network has no such ability, or this installation lacks a part for it."""


class MovedOn(SortaError):
    """The conversation moved on; `new_seqs` are the trail numbers the author has not seen."""

    def __init__(self, message: str, new_seqs: tuple[int, ...]) -> None:
        super().__init__(message)
        self.new_seqs = new_seqs


class ChangedElsewhere(SortaError):
    """The same thing was changed since whoever asks had read it; nothing was overwritten."""


class NeedsApproval(SortaError):
    """The reply may not go out before somebody has consented; its text is kept by its author."""


class TooLate(SortaError):
    """The act has had its effect outside, or was undone already."""


class Unreadable(SortaError):
    """An activity that cannot be taken in; it is kept aside with this reason."""
