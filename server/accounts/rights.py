"""What each person may do: everybody reads, an apprentice records, a member releases, an owner rules.

Whatever writes is a release unless it is named here: a new operation is closed until somebody thinks
about it. Asked in one place, when it is known who sends a request, before anything of it is read.
"""

from __future__ import annotations

import re

from django.contrib.auth.models import User
from django.http import HttpRequest

from server.config.problems import Refusal

from .models import Membership, Role

#: Sent by POST, but writes nothing: a computation, or what would happen.
COMPUTES = frozenset(
    {
        "/controllers/pin-list",
        "/ethanol-share",
        "/jobs/preview",
        "/jobs/{}/agreement/preview",
        "/jobs/{}/base-maps/axes/preview",
        "/jobs/{}/base-maps/carry-over/preview",
        "/jobs/{}/base-maps/preview",
        "/jobs/{}/bench/light",
        "/jobs/{}/dwell/preview",
        "/jobs/{}/injectors/infer",
        "/jobs/{}/injectors/preview",
        "/jobs/{}/outputs/preview",
        "/jobs/{}/supply/preview",
        "/jobs/{}/live/{}/light",
        "/jobs/{}/supply/prime",
        "/jobs/{}/table-bench/check",
        "/jobs/{}/table-bench/operate",
        "/jobs/{}/table-bench/paste",
        "/jobs/{}/timing/preview",
        "/jobs/{}/trigger/preview",
        "/jobs/{}/wiring/preview",
        "/pasted",
        "/sensors/preview",
        "/three-wire/identify",
        "/throttle-capture",
    }
)
#: What was seen, measured or brought: nothing of the engine's tables, plans or gates changes by it.
RECORDS = frozenset(
    {
        "/jobs/{}/bench/captures",
        "/jobs/{}/bench/held",
        "/jobs/{}/bench/key-on",
        "/jobs/{}/bench/starts",
        "/jobs/{}/captures",
        "/jobs/{}/captures/read",
        "/jobs/{}/captures/upload",
        "/jobs/{}/inherited/file",
        "/jobs/{}/inherited/paste",
        "/jobs/{}/intake",
        "/jobs/{}/key-on",
        "/jobs/{}/fuel-map",
        "/jobs/{}/bench/drive",
        "/jobs/{}/live",
        "/jobs/{}/live/{}/close",
        "/jobs/{}/live/{}/command",
        "/jobs/{}/live/{}/keep",
        "/jobs/{}/live/{}/run-in",
        "/jobs/{}/live/{}/sweep",
        "/jobs/{}/logs",
        "/jobs/{}/logs/preview",
        "/jobs/{}/logs/read",
        "/jobs/{}/mornings",
        "/jobs/{}/output-tests",
        "/jobs/{}/photographs",
        "/jobs/{}/season/end",
        "/jobs/{}/season/looks",
        "/jobs/{}/season/nights",
        "/jobs/{}/season/starts",
        "/jobs/{}/three-wire",
        "/jobs/{}/timing",
        "/jobs/{}/trials",
        "/jobs/{}/trials/of-log",
        "/jobs/{}/trials/starts",
        "/jobs/{}/units",
        "/jobs/{}/wiring/checks",
        "/tasks/{}",
    }
)
#: Of one's own account: everybody but a guest.
OWN_ACCOUNT = frozenset({"/session/password", "/tokens", "/tokens/{}"})
#: Who works here.
RULES = frozenset({"/people", "/people/{}", "/people/{}/role"})
#: Open before anybody is signed in, or to leave.
ANYBODY = frozenset({"/session", "/session/guest", "/users"})

_PARAMETER = re.compile(r"<[^>]*>|\{[^}]*\}")


#: What each role does, the least first, and what is said to whoever may not do everything.
ROLES_SAID = {
    Role.APPRENTICE: "records starts, logs, captures, checks and photographs",
    Role.MEMBER: "also releases tables, plans, sensors and injectors, and reasons that open a gate",
    Role.OWNER: "also says who works here",
}
_GUEST_SAID = "You look at this job as a guest: nothing can be changed."
_APPRENTICE_SAID = (
    "You record here as an apprentice. What changes tables, plans or gates is released by a member."
)


def place_of(route: str) -> str:
    """Return an address of the contract or of a route with its parameters blank."""
    path = "/" + route.removeprefix("/").removeprefix("api/")
    return _PARAMETER.sub("{}", path)


def role_of(user: User) -> Role | None:
    """Return a person's role in their workshop, None for a guest."""
    place = Membership.objects.filter(user=user).values_list("role", flat=True).first()
    return None if place is None else Role(place)


def may_record(role: Role | None) -> bool:
    """Say whether a role may write down what was seen; None for a guest."""
    return role is not None


def may_release(role: Role | None) -> bool:
    """Say whether a role may change tables, plans and gates; None for a guest."""
    return role in (Role.OWNER, Role.MEMBER)


def may_rule(role: Role | None) -> bool:
    """Say whether a role may say who works here; None for a guest."""
    return role == Role.OWNER


def bounds_said(role: Role | None) -> str:
    """Return what is said to somebody who may not do everything; None for a guest."""
    if role is None:
        return _GUEST_SAID
    return "" if may_release(role) else _APPRENTICE_SAID


def may(role: Role | None, place: str) -> bool:
    """Say whether a role may send something to a place; reading is bounded by what is visible.

    Parameters
    ----------
    role : Role or None
        None for a guest.
    place : str
        As of :func:`place_of`.
    """
    if place in ANYBODY or place in COMPUTES:
        return True
    if place in OWN_ACCOUNT or place in RECORDS:
        return may_record(role)
    return may_rule(role) if place in RULES else may_release(role)


def refuse_if_not_allowed(request: HttpRequest, user: User) -> None:
    """Refuse what a person's role does not allow.

    Raises
    ------
    Refusal
        403, with who may.
    """
    match = request.resolver_match
    if match is None or request.method in ("GET", "HEAD", "OPTIONS"):
        return
    place, role = place_of(match.route), role_of(user)
    if may(role, place):
        return
    if role is None:
        said = _GUEST_SAID
    elif place in RULES:
        said = "Only an owner of the workshop says who works here."
    else:
        said = "An apprentice records; a member or an owner of the workshop releases this."
    raise Refusal(403, "Not yours to do", said)
