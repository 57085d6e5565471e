"""Shapes of questions to people without a login."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, BaseModel, Field

from sorta.api.schemas.base import Asked
from sorta.core.advice import LONGEST_NAME, LONGEST_QUESTION


class Domains(Asked):
    """The mail domains at which people outside can be asked."""

    domains: list[Annotated[str, Field(max_length=254)]] = Field(max_length=100)


class Question(Asked):
    """Ask somebody by mail; an answer is waited for until `wait_until`."""

    to_address: str = Field(max_length=254)
    to_name: str = Field("", max_length=LONGEST_NAME)
    question: str = Field(max_length=LONGEST_QUESTION)
    wait_until: AwareDatetime


class AdviceAnswer(BaseModel):
    """What came back. `own` is what its writer said now, `quoted` the rest of the letter; `automatic` says why it is no
    answer of a person's; `other_sender` that it came from another address than was asked."""

    id: int
    sender: str
    sender_name: str
    subject: str
    own: str
    quoted: str
    automatic: str | None
    other_sender: bool
    at: datetime


class Advice(BaseModel):
    """A question and where it stands; `problem` is why it has not been sent."""

    id: int
    asked_by: int
    to_address: str
    to_name: str
    question: str
    asked_at: datetime
    wait_until: datetime
    state: Literal["sending", "asked", "given", "overdue", "withdrawn", "refused"]
    next_at: datetime | None
    problem: str | None
    answers: list[AdviceAnswer]


class Address(BaseModel):
    to_address: str
    to_name: str
