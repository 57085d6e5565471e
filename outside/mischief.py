"""How a network misbehaves on request: for a number of requests, or until told otherwise."""

from typing import Any

from outside.state import State

#: Numbers count down by request; booleans stay until switched off.
DEFAULT: dict[str, Any] = {
    "slow_ms": 0,
    "fail": 0,
    "limit": 0,
    "retry_after": 2,
    "lose": 0,
    "refuse": 0,
    "drop": 0,
    "duplicate": False,
    "reorder": False,
}


class Mischief:
    """The settings of every network, kept with the rest of the state."""

    def __init__(self, state: State) -> None:
        self._state = state

    def get(self, network: str) -> dict[str, Any]:
        return {**DEFAULT, **self._state.get_setting(f"mischief:{network}", {})}

    def set(self, network: str, changes: dict[str, Any]) -> dict[str, Any]:
        """Change some settings; unknown names and values of another type are refused."""
        for key, value in changes.items():
            if key not in DEFAULT or type(value) is not type(DEFAULT[key]):
                raise ValueError(f"{key}={value!r} is no setting of this kind")
        now = {**self.get(network), **changes}
        self._state.set_setting(f"mischief:{network}", now)
        return now

    def use(self, network: str, key: str) -> bool:
        """Whether this request is one that goes wrong; counts it down."""
        left = self.get(network)[key]
        if left > 0:
            self.set(network, {key: left - 1})
        return bool(left > 0)
