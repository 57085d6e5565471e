"""Values that are read from outside as they stand. Used by what members write: rules, policies, saved replies, draws."""

from typing import ClassVar


class Exact:
    """A key that it does not have is refused, never passed over: a misspelt condition was a rule that met everything."""

    __pydantic_config__: ClassVar = {"extra": "forbid"}
