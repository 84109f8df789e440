"""Users, workshops and tokens."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from inbetrieb_core.errors import FieldProblem, InputRefused

from .models import ApiToken, Membership, Workshop


@transaction.atomic
def register(*, username: str, password: str | None, workshop: str) -> User:
    """Return a new user in a workshop of their own.

    Raises
    ------
    InputRefused
        If the name is taken or the password too weak.
    """
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
    user = User.objects.create_user(username=username, password=password)
    place = Workshop.objects.create(name=workshop.strip() or f"{username}’s workshop")
    Membership.objects.create(user=user, workshop=place)
    return user


def workshop_of(user: User) -> Workshop:
    """Return the workshop of a user, making one for a user created elsewhere."""
    membership = Membership.objects.select_related("workshop").filter(user=user).first()
    if membership is None:
        with transaction.atomic():
            workshop = Workshop.objects.create(name=f"{user.get_username()}’s workshop")
            membership = Membership.objects.create(user=user, workshop=workshop)
    return membership.workshop


@transaction.atomic
def issue_token(user: User, name: str) -> str:
    """Return a new token, shown this once."""
    token = ApiToken.new_token()
    ApiToken.objects.create(
        user=user, name=name.strip()[:80] or "token", digest=ApiToken.digest_of(token)
    )
    return token


def user_of_token(token: str) -> User | None:
    """Return the active user of a token, None if there is none."""
    entry = ApiToken.objects.select_related("user").filter(digest=ApiToken.digest_of(token)).first()
    return entry.user if entry is not None and entry.user.is_active else None
