"""What all shapes of requests are made from."""

from pydantic import BaseModel, ConfigDict


class Asked(BaseModel):
    """Something a client asks for or sets: a key that it does not have is refused, never passed over. A misspelt one would
    otherwise be a wish that nobody heard."""

    model_config = ConfigDict(extra="forbid")
