"""Wording shared by the reasons of base maps."""

from __future__ import annotations

from collections.abc import Sequence


def listed(parts: Sequence[str]) -> str:
    """Return parts as people list them: ``a, b and c``."""
    if len(parts) < 2:
        return "".join(parts)
    return f"{', '.join(parts[:-1])} and {parts[-1]}"
