"""Users, workshops and tokens."""

from __future__ import annotations

from datetime import timedelta

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import PermissionDenied, ValidationError
from django.shortcuts import get_object_or_404
from django.utils import timezone
from inbetrieb_core.errors import FieldProblem, InputRefused, field_refused

from server.config.writes import writing

from .models import ApiToken, Membership, Role, Workshop

#: A token holds so long where nobody says. [d]
TOKEN_DAYS = 90


@writing()
def register(*, username: str, password: str | None, workshop: str) -> User:
    """Return a new user in a workshop of their own.

    Raises
    ------
    InputRefused
        If the name is taken or the password too weak.
    """
    user = _new_user(username, password)
    place = Workshop.objects.create(name=workshop.strip() or f"{user.get_username()}’s workshop")
    Membership.objects.create(user=user, workshop=place, role=Role.OWNER)
    return user


def _new_user(username: str, password: str | None) -> User:
    problems = []
    username = username.strip()
    if not username or len(username) > 60:
        problems.append(FieldProblem("username", "Choose a name of 1 to 60 characters."))
    elif User.objects.filter(username__iexact=username).exists():
        problems.append(FieldProblem("username", f"The name '{username}' is taken."))
    if password is not None:
        try:
            validate_password(password)
        except ValidationError as error:
            problems.extend(FieldProblem("password", message) for message in error.messages)
    if problems:
        raise InputRefused(problems)
    return User.objects.create_user(username=username, password=password)


def workshop_of(user: User) -> Workshop:
    """Return the workshop of a user.

    Raises
    ------
    PermissionDenied
        If they belong to none; signing in gives them one.
    """
    membership = Membership.objects.select_related("workshop").filter(user=user).first()
    if membership is None:
        raise PermissionDenied("You belong to no workshop: sign in anew.")
    return membership.workshop


@writing()
def ensure_workshop(user: User) -> None:
    """Give a user who was made elsewhere a workshop of their own."""
    if not Membership.objects.filter(user=user).exists():
        workshop = Workshop.objects.create(name=f"{user.get_username()}’s workshop")
        Membership.objects.create(user=user, workshop=workshop, role=Role.OWNER)


def workshop_name(user: User) -> str:
    """Return the name of a user's workshop; empty where they have none yet."""
    place = Workshop.objects.filter(memberships__user=user).first()
    return "" if place is None else place.name


def people_of(user: User) -> list[Membership]:
    """Return who works in a user's workshop, in the order in which they came."""
    return list(
        Membership.objects.filter(workshop=workshop_of(user)).select_related("user").order_by("pk")
    )


@writing()
def take_in(owner: User, username: str, password: str, role: str) -> Membership:
    """Return the place of a new person in the owner's workshop.

    Raises
    ------
    InputRefused
        If the name is taken or the password too weak.
    """
    user = _new_user(username, password)
    return Membership.objects.create(user=user, workshop=workshop_of(owner), role=Role(role))


@writing()
def give_role(owner: User, person_id: int, role: str) -> Membership:
    """Return the place of a person of the owner's workshop, with another role.

    Raises
    ------
    Http404
        If nobody of that number works there.
    InputRefused
        If no owner would be left.
    """
    place = get_object_or_404(Membership, pk=person_id, workshop=workshop_of(owner))
    if role != Role.OWNER:
        _refuse_if_last_owner(place)
    place.role = Role(role)
    place.save(update_fields=["role"])
    return place


@writing()
def let_go(owner: User, person_id: int) -> None:
    """End a person's place: they cannot sign in any more; what they wrote keeps their name.

    Raises
    ------
    Http404
        If nobody of that number works there.
    InputRefused
        If no owner would be left.
    """
    place = get_object_or_404(Membership, pk=person_id, workshop=workshop_of(owner))
    _refuse_if_last_owner(place)
    ApiToken.objects.filter(user=place.user).delete()
    User.objects.filter(pk=place.user_id).update(is_active=False)
    place.delete()


def _refuse_if_last_owner(place: Membership) -> None:
    others = Membership.objects.filter(workshop=place.workshop, role=Role.OWNER).exclude(
        pk=place.pk
    )
    if place.role == Role.OWNER and not others.exists():
        raise field_refused("role", "A workshop needs an owner: make somebody else one first.")


@writing()
def issue_token(user: User, name: str, days: int | None = None) -> str:
    """Return a new token, shown this once; it holds for so many days, else :data:`TOKEN_DAYS`."""
    token = ApiToken.new_token()
    ApiToken.objects.create(
        user=user,
        name=name.strip()[:80] or "token",
        digest=ApiToken.digest_of(token),
        expires_at=timezone.now() + timedelta(days=TOKEN_DAYS if days is None else days),
    )
    return token


def tokens_of(user: User) -> list[ApiToken]:
    """Return the tokens of a user, the newest first."""
    return list(ApiToken.objects.filter(user=user).order_by("-pk"))


@writing()
def revoke_token(user: User, token_id: int) -> None:
    """Have a token of a user hold no longer.

    Raises
    ------
    Http404
        If there is none.
    """
    get_object_or_404(ApiToken, pk=token_id, user=user).delete()


@writing()
def change_password(user: User, old: str, new: str) -> None:
    """Give a user another password.

    Raises
    ------
    InputRefused
        If the old one is wrong, or the new one too weak.
    """
    if not user.check_password(old):
        raise field_refused("old", "That is not the password you have now.")
    try:
        validate_password(new, user)
    except ValidationError as error:
        raise InputRefused([FieldProblem("new", message) for message in error.messages]) from None
    user.set_password(new)
    user.save(update_fields=["password"])


def user_of_token(token: str) -> User | None:
    """Return the active user of a token, None if there is none."""
    entry = ApiToken.objects.select_related("user").filter(digest=ApiToken.digest_of(token)).first()
    if entry is None or not entry.user.is_active:
        return None
    holds = entry.expires_at is None or entry.expires_at > timezone.now()
    return entry.user if holds else None
