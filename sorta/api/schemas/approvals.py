"""Shapes of replies that wait for consent, and of policies. What a policy is comes from `core.approval` itself."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from sorta.api.schemas.acts import Reply, Written
from sorta.api.schemas.base import Asked, Shown
from sorta.api.schemas.files import Attachment
from sorta.core.approval import PolicyBody
from sorta.core.ports import Kind


class NeedShown(BaseModel):
    """Consent that is needed: of `count` of these members, because of a policy (0: of a role or a rule)."""

    policy: int
    name: str
    count: int
    members: list[int]
    words: list[str]


class Consent(BaseModel):
    member: int
    at: datetime


class AskedShown(BaseModel):
    """Somebody who was asked; from `until` on the next is asked too."""

    member: int
    at: datetime
    until: datetime


class Asking(Asked):
    """After which share of the time left the next is asked, in percent."""

    share: int


class Proposal(BaseModel):
    """A reply and where its approval stands; `before_edit` is what its author wrote when an approver changed it."""

    id: int
    author_id: int
    public: bool
    body: str
    settle: bool
    state: Literal["waiting", "approved", "sent_back", "withdrawn"]
    made_at: datetime
    seen_seq: int
    needs: list[NeedShown]
    consents: list[Consent]
    asked: list[AskedShown]
    before_edit: str | None
    edited_by: int | None
    reason: str | None
    decided_by: int | None
    decided_at: datetime | None
    mine: bool
    waits_on: list[int]
    too_few: list[str] = Field(description="Needs that fewer members may meet than have to: it waits until others may")
    overtaken: bool
    attachments: list[Attachment]
    answers_from: int | None = Field(description="The account that answers, when it is not the one that was spoken to")
    sign_off: str = Field(description="What closes it when it goes out, with what sets it off")
    written: Written | None = Field(description="What its author wrote before it was translated")


class WaitingProposal(BaseModel):
    """One that waits, with its conversation; `mine` when it waits for the member who asks."""

    id: int
    conversation_id: int
    author_id: int
    public: bool
    body: str
    settle: bool
    made_at: datetime
    seen_seq: int
    needs: list[NeedShown]
    consents: list[Consent]
    asked: list[AskedShown]
    before_edit: str | None
    edited_by: int | None
    person_name: str
    network: str
    account_id: int
    kind: Kind
    tags: list[int]
    priority: int
    due: datetime | None
    preview: str
    reads_as: list[Shown] | None
    standing: int | None
    seq: int
    mine: bool
    waits_on: list[int]
    too_few: list[str] = Field(description="Needs that fewer members may meet than have to: it waits until others may")
    overtaken: bool
    attachments: list[Attachment]
    answers_from: int | None = Field(description="The account that answers, when it is not the one that was spoken to")
    sign_off: str = Field(description="What closes it when it goes out, with what sets it off")
    written: Written | None = Field(description="What its author wrote before it was translated")


class NewProposal(Reply):
    """A reply that is to be approved first."""


class ChangedProposal(Asked):
    text: str = Field(max_length=20000)
    seen_seq: int = Field(ge=0)


class Approval(Asked):
    """`text` where the approver changes it; `seen_seq` is the newest trail number that they have seen."""

    seen_seq: int = Field(ge=0)
    text: str | None = Field(None, max_length=20000)


class Approved(BaseModel):
    """Whether it goes out once the time for calling it back is over, as act `seq` of the trail, or waits for somebody
    else still."""

    sent: bool
    seq: int | None


class SentBack(Asked):
    reason: str = Field(max_length=4000)


class StoredPolicy(BaseModel):
    id: int
    switched_on: bool
    body: PolicyBody
    changed_by: int
    changed_at: datetime
    warnings: list[str] = Field(description="What to know about who may consent now")


class NewPolicy(Asked):
    body: PolicyBody
    on: bool = True


class PolicyToTry(Asked):
    body: PolicyBody
    days: int = 28


class HeldBack(BaseModel):
    """An answer that would have waited for `members`, because of `words` where the policy names any."""

    id: int
    conversation_id: int
    member_id: int
    public: bool
    body: str
    sent_at: datetime
    person_name: str
    network: str
    members: list[int]
    words: list[str]


class AuthorHeld(BaseModel):
    member: int
    held: int


class PolicyTrial(BaseModel):
    """Of `replies` answers in the last `days`, `held` would have waited."""

    days: int
    replies: int
    held: int
    authors: list[AuthorHeld]
    examples: list[HeldBack]
