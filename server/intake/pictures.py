"""Pictures: read, made upright and no larger than a screen needs, and written anew."""

from __future__ import annotations

import io
import warnings
from typing import NamedTuple

from inbetrieb_core.errors import CoreError
from PIL import Image, ImageOps, UnidentifiedImageError

_LONGEST_SIDE = 2000
_MOST_PIXELS = 80_000_000
_KINDS = ("JPEG", "PNG", "WEBP")


class Picture(NamedTuple):
    """A picture as it is kept: JPEG without whatever else was in the file."""

    jpeg: bytes
    width: int
    height: int


def kept_picture(data: bytes) -> Picture:
    """Return the picture of a file as it is kept.

    Parameters
    ----------
    data : bytes
        JPEG, PNG or WebP.

    Raises
    ------
    CoreError
        If it is no picture, or an unreasonable one.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=_KINDS)
            if image.width * image.height > _MOST_PIXELS:
                raise CoreError("The picture has more than 80 million pixels.")
            image.draft("RGB", (_LONGEST_SIDE, _LONGEST_SIDE))
            upright = ImageOps.exif_transpose(image)
            upright.thumbnail((_LONGEST_SIDE, _LONGEST_SIDE))
            plain = upright.convert("RGB")
    except CoreError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError,
            Image.DecompressionBombWarning) as error:  # fmt: skip
        raise CoreError("That is no picture that can be read: JPEG, PNG or WebP.") from error
    out = io.BytesIO()
    plain.save(out, "JPEG", quality=85)
    return Picture(out.getvalue(), plain.width, plain.height)
