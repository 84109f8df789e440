"""Photographs: read as pictures, written anew without whatever else was in the file, never deleted."""

from __future__ import annotations

import hashlib
import io
import warnings
from pathlib import Path

from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import Max
from django.shortcuts import get_object_or_404
from PIL import Image, ImageOps, UnidentifiedImageError

from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.models import Job

from .models import Photograph, PhotographAside

LARGEST_BYTES = 24 * 1024 * 1024
MOST_IN_A_JOB = 200
_LONGEST_SIDE = 2000
_MOST_PIXELS = 80_000_000
_KINDS = ("JPEG", "PNG", "WEBP")


def _folder(job: Job) -> Path:
    folder: Path = settings.VAR / "photographs" / str(job.workshop_id)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def path_of(photograph: Photograph) -> Path:
    """Return where the picture lies."""
    return _folder(photograph.job) / f"{photograph.digest}.jpg"


def _read(data: bytes) -> Image.Image:
    """Return the picture in a file, upright and no larger than a screen needs.

    Raises
    ------
    Refusal
        422 if it is no picture, or an unreasonable one.
    """
    if len(data) > LARGEST_BYTES:
        raise Refusal(422, "Photograph refused", "The picture is larger than 24 MB.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=_KINDS)
            if image.width * image.height > _MOST_PIXELS:
                raise Refusal(
                    422, "Photograph refused", "The picture has more than 80 million pixels."
                )
            image.draft("RGB", (_LONGEST_SIDE, _LONGEST_SIDE))
            upright = ImageOps.exif_transpose(image)
            upright.thumbnail((_LONGEST_SIDE, _LONGEST_SIDE))
            return upright.convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError,
            Image.DecompressionBombWarning) as error:  # fmt: skip
        raise Refusal(
            422, "Photograph refused", "That is no picture that can be read: JPEG, PNG or WebP."
        ) from error


def add_photograph(job: Job, user: User, data: bytes, caption: str) -> Photograph:
    """Keep a photograph in a job; place and camera written into the file are not kept.

    Raises
    ------
    Refusal
        422 if it is no picture, or the job has too many.
    """
    image = _read(data)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=85)
    digest = hashlib.sha256(out.getvalue()).hexdigest()
    with writing():
        last = Photograph.objects.filter(job=job).aggregate(n=Max("number"))["n"] or 0
        if last >= MOST_IN_A_JOB:
            raise Refusal(422, "Photograph refused", f"A job keeps {MOST_IN_A_JOB} photographs.")
        photograph = Photograph.objects.create(
            job=job, number=last + 1, digest=digest, width=image.width, height=image.height,
            caption=caption.strip()[:300], created_by=user,
        )  # fmt: skip
        path = path_of(photograph)
        if not path.exists():
            part = path.with_suffix(".part")
            part.write_bytes(out.getvalue())
            part.replace(path)
    return photograph


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
