"""Photographs: read as pictures, written anew without whatever else was in the file, never deleted."""

from __future__ import annotations

import hashlib
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import Max
from django.shortcuts import get_object_or_404
from inbetrieb_core.errors import CoreError

from server.config.bounded import bounded
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.models import Job

from .models import Photograph, PhotographAside
from .pictures import kept_picture

LARGEST_BYTES = 24 * 1024 * 1024
MOST_IN_A_JOB = 200
_REFUSED = "Photograph refused"


def _folder(job: Job) -> Path:
    folder: Path = settings.VAR / "photographs" / str(job.workshop_id)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def path_of(photograph: Photograph) -> Path:
    """Return where the picture lies."""
    return _folder(photograph.job) / f"{photograph.digest}.jpg"


def add_photograph(job: Job, user: User, data: bytes, caption: str) -> Photograph:
    """Keep a photograph in a job; place and camera written into the file are not kept.

    Raises
    ------
    Refusal
        422 if it is no picture, or the job has too many.
    """
    if len(data) > LARGEST_BYTES:
        raise Refusal(422, _REFUSED, "The picture is larger than 24 MB.")
    try:
        picture = bounded(kept_picture, data)
    except CoreError as error:
        raise Refusal(422, _REFUSED, str(error)) from error
    digest = hashlib.sha256(picture.jpeg).hexdigest()
    with writing():
        last = Photograph.objects.filter(job=job).aggregate(n=Max("number"))["n"] or 0
        if last >= MOST_IN_A_JOB:
            raise Refusal(422, _REFUSED, f"A job keeps {MOST_IN_A_JOB} photographs.")
        photograph = Photograph.objects.create(
            job=job, number=last + 1, digest=digest, width=picture.width, height=picture.height,
            caption=caption.strip()[:300], created_by=user,
        )  # fmt: skip
        _keep(photograph, picture.jpeg)
    return photograph


def keep_picture(photograph: Photograph, data: bytes) -> None:
    """Keep the file of a photograph that came with its row.

    Raises
    ------
    ValueError
        If it is not the picture that the row names, or none at all.
    """
    if hashlib.sha256(data).hexdigest() != photograph.digest:
        raise ValueError("another picture than the row names")
    try:
        bounded(kept_picture, data)
    except CoreError as error:
        raise ValueError(str(error)) from error
    _keep(photograph, data)


def _keep(photograph: Photograph, jpeg: bytes) -> None:
    path = path_of(photograph)
    if not path.exists():
        part = path.with_suffix(".part")
        part.write_bytes(jpeg)
        part.replace(path)


def photograph_of(job: Job, number: int) -> Photograph:
    """Return a photograph of a job, 404 if there is none."""
    return get_object_or_404(Photograph, job=job, number=number)


def is_aside(photograph: Photograph) -> bool:
    """Return whether a photograph was put aside."""
    last = photograph.asides.order_by("pk").last()
    return last is not None and last.aside


@writing()
def put_aside(photograph: Photograph, user: User, aside: bool) -> None:
    """Put a photograph aside, or bring it back."""
    PhotographAside.objects.create(photograph=photograph, aside=aside, created_by=user)
