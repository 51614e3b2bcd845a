"""Makes a photo small, and keeps nothing of it but the picture: no place, no camera, no hour."""

import base64
import io
from pathlib import Path
from typing import Any, Final

from PIL import Image, ImageOps, UnidentifiedImageError

from keeve.core.message.errors import Code, Fault, TakeoffError
from keeve.core.message.said import Amount, Said, mark

KINDS: Final = ("JPEG", "PNG", "WEBP")
LONGEST: Final = 1280
"""Pixels of the longer side, as it is kept."""
MOST_PIXELS: Final = 60_000_000
QUALITIES: Final = (82, 70, 55, 40)
MOST_KEPT_BYTES: Final = 300_000


def read_photo(path: Path) -> dict[str, Any]:
    """Read a photo and return it small: base64 of a JPEG, how wide and how high [pixels].

    Raises
    ------
    TakeoffError : it is no photo, is cut off, or has more pixels than can be taken in

    References
    ----------
    Common practice, no source.
    """
    try:
        with Image.open(path, formats=KINDS) as found:
            small = _picture(found) if found.width * found.height <= MOST_PIXELS else None
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        why = mark("This is no photo that can be read, or it is cut off.")
        raise TakeoffError(Fault(Code.UNREADABLE, why, mark("Send it as JPEG, PNG or WebP."))) from None
    if small is None:
        said = Said("This photo has more than {most} million pixels.", most=Amount(MOST_PIXELS / 1e6, "whole"))
        raise TakeoffError(Fault(Code.TOO_MANY, said, mark("Send it smaller.")))
    small.thumbnail((LONGEST, LONGEST))
    for quality in QUALITIES:
        kept = io.BytesIO()
        Image.frombytes("RGB", small.size, small.tobytes()).save(kept, "JPEG", quality=quality, optimize=True)
        if kept.tell() <= MOST_KEPT_BYTES:
            break
    return {"jpeg": base64.b64encode(kept.getvalue()).decode(), "wide": small.width, "high": small.height}


def _picture(found: Image.Image) -> Image.Image:
    """Unpack a picture, no larger than it must be, upright."""
    if found.format == "JPEG":
        found.draft("RGB", (LONGEST, LONGEST))
    return ImageOps.exif_transpose(found).convert("RGB")
