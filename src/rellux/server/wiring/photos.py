"""Photographs from phones: told by their bytes, drawn anew, and stripped of everything but the picture.

A file is never kept as it came. It is decoded, turned the way the camera was held, bounded in size and written again:
what is served was written by Rellux, without location, camera, or anything a browser could run.
"""

import io
import warnings

from django.http import Http404, HttpResponse
from PIL import Image, ImageOps, UnidentifiedImageError

from rellux.core.errors import refuse
from rellux.core.messages import quantity

LARGEST_PHOTO = 12_000_000
"""Bytes, as it comes from the phone."""
MOST_PIXELS = 60_000_000
LONGEST_SIDE = 2400
FORMATS = {"JPEG": "image/jpeg", "PNG": "image/png"}
SERVED = {b"\xff\xd8\xff": "image/jpeg", b"\x89PNG\r\n\x1a\n": "image/png"}
HEIF_BRANDS = (b"heic", b"heix", b"hevc", b"heim", b"heis", b"mif1", b"msf1", b"heif", b"avif")
WANTED = "a JPEG or PNG"


def redrawn(data: bytes) -> tuple[bytes, str]:
    """The photograph written anew, and its media type. Raises ``Refused`` naming what is wrong with the file."""
    if len(data) > LARGEST_PHOTO:
        raise refuse(
            "file", f"{quantity(len(data) / 1e6, 'MB', '.1f')} is too large", f"up to {LARGEST_PHOTO // 1_000_000} MB"
        )
    if data[4:8] == b"ftyp" and data[8:12] in HEIF_BRANDS:
        raise refuse(
            "file", "HEIC photos cannot be read here; set the phone to “most compatible” or send it as JPEG", WANTED
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=tuple(FORMATS))
            kind = str(image.format)
            if image.width * image.height > MOST_PIXELS:
                raise refuse(
                    "file", f"{image.width} × {image.height} pixels are too many", f"up to {MOST_PIXELS:,} pixels"
                )
            image.draft("RGB", (LONGEST_SIDE, LONGEST_SIDE))
            image = ImageOps.exif_transpose(image)
            image.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    except UnidentifiedImageError:
        raise refuse("file", "this is not a photo", WANTED) from None
    except (
        OSError,
        ValueError,
        SyntaxError,
        ArithmeticError,
        Image.DecompressionBombError,
        Image.DecompressionBombWarning,
    ):
        raise refuse("file", "this photo is damaged or larger than it may be", WANTED) from None
    return _written(image, kind), FORMATS[kind]


def _written(image: Image.Image, kind: str) -> bytes:
    """The pixels alone: no comment, profile, thumbnail or position survives."""
    bare = image.convert("RGB") if kind == "JPEG" or image.mode not in ("RGB", "RGBA", "L") else image
    bare.info.clear()
    out = io.BytesIO()
    bare.save(out, kind, **({"quality": 88} if kind == "JPEG" else {"optimize": False}))
    return out.getvalue()


def picture(image: bytes) -> HttpResponse:
    """As it is served; not at all where these bytes are no photograph."""
    kind = media_type(image)
    if kind is None:
        raise Http404
    response = HttpResponse(image, content_type=kind)
    response["Content-Security-Policy"] = "default-src 'none'; sandbox"
    response["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


def media_type(data: bytes) -> str | None:
    """What these bytes are by themselves; nothing where they are no photograph."""
    return next((kind for magic, kind in SERVED.items() if data.startswith(magic)), None)
