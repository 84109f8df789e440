"""How often somebody may try a password: few times in a row, then a wait that grows."""

from __future__ import annotations

from django.core.cache import cache
from django.http import HttpRequest

from server.config.problems import Refusal

#: So many wrong tries are free; each further one waits twice as long as the one before. [s]
_FREE, _FIRST_WAIT_S, _LONGEST_WAIT_S = 5, 4, 900
_FORGOTTEN_S = 3600


def _keys(request: HttpRequest, username: str) -> tuple[str, str]:
    """Return what tries are counted by: the name, and where they come from."""
    name = username.strip().lower()[:80].encode().hex()
    return f"tries.name.{name}", f"tries.from.{request.META.get('REMOTE_ADDR', '')}"


def refuse_if_too_often(request: HttpRequest, username: str) -> None:
    """Refuse a try that comes too soon after wrong ones.

    Raises
    ------
    Refusal
        429 with how long to wait.
    """
    for key in _keys(request, username):
        tries = cache.get(key, 0)
        if tries >= _FREE and cache.get(f"{key}.wait"):
            wait_s = _wait_s(tries)
            raise Refusal(
                429, "Too many tries", f"Too many wrong passwords: wait {wait_s} s, then try again."
            )


def note_wrong(request: HttpRequest, username: str) -> None:
    """Count a wrong password."""
    for key in _keys(request, username):
        tries = cache.get(key, 0) + 1
        cache.set(key, tries, _FORGOTTEN_S)
        if tries >= _FREE:
            cache.set(f"{key}.wait", True, _wait_s(tries))


def note_right(request: HttpRequest, username: str) -> None:
    """Forget the wrong tries of a name: it was who they say."""
    cache.delete(_keys(request, username)[0])


def _wait_s(tries: int) -> int:
    return int(min(_FIRST_WAIT_S * 2 ** (tries - _FREE), _LONGEST_WAIT_S))
