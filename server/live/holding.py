"""Who holds the key: of several people and tablets at one session, one commands."""

from __future__ import annotations

from dataclasses import dataclass

from server.config.problems import Refusal

#: Somebody who has commanded nothing for so long holds the key no more. [s]
_HOLDS_S = 30.0


@dataclass(frozen=True)
class Holder:
    """Who commanded last: a name, a tablet, and when. [s]"""

    name: str
    tablet: str
    at_s: float


class Key:
    """The key of a session."""

    def __init__(self) -> None:
        self._last: Holder | None = None

    def holder(self, now_s: float) -> Holder | None:
        """Return who holds it at a time; None where nobody does. [s]"""
        last = self._last
        return last if last is not None and now_s - last.at_s < _HOLDS_S else None

    def take(self, name: str, tablet: str, now_s: float, *, over: bool = False) -> None:
        """Give it to somebody who commands at a time; `over` takes it from one's own other tablet. [s]

        Raises
        ------
        Refusal
            409 where somebody else holds it.
        """
        holder = self.holder(now_s)
        is_other = holder is not None and (holder.name, holder.tablet) != (name, tablet)
        if holder is not None and is_other and not (over and holder.name == name):
            where = " on another tablet" if holder.name == name else ""
            wait = _HOLDS_S - (now_s - holder.at_s)
            raise Refusal(
                409,
                "Somebody else holds the key",
                f"{holder.name} holds the key{where}. It is free once nothing was commanded for {wait:.0f} s more; "
                "the kill switch works for everybody.",
                held_by=holder.name,
            )
        self._last = Holder(name, tablet, now_s)
