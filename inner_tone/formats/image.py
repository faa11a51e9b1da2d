"""Images that come into texts: read, turned upright, made small enough for a page, written without what they hide."""

import io
from dataclasses import dataclass

from PIL import Image, ImageOps, UnidentifiedImageError

from inner_tone.core.errors import InnerToneError

FORMATS = ("PNG", "JPEG", "WEBP", "GIF")
MOST_PIXELS = 40_000_000
MOST_ACROSS = 1_600
JPEG_QUALITY = 88


class ImageError(InnerToneError):
    """A file that cannot be taken in as an image."""


@dataclass(frozen=True)
class Picture:
    """An image file: what it is, its bytes, and how many pixels it has."""

    media_type: str
    data: bytes
    width: int
    height: int


def read_image(data: bytes) -> Picture:
    """Return an image as it is kept: PNG, or JPEG where it was one; raises ImageError."""
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                size = f"{opened.width} × {opened.height}"
                raise ImageError(f"The image has {size} pixels; {MOST_PIXELS // 10**6} million are the most.")
            is_photo = opened.format == "JPEG"
            image = ImageOps.exif_transpose(opened)
            image.thumbnail((MOST_ACROSS, MOST_ACROSS))
            return written(image, is_photo=is_photo)
    except UnidentifiedImageError as error:
        raise ImageError("This is no image that can be read: PNG, JPEG, WebP and GIF can.") from error
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError) as error:
        raise ImageError("The image is damaged: it cannot be read to its end.") from error


def written(image: Image.Image, *, is_photo: bool) -> Picture:
    """Return an image as a file."""
    file = io.BytesIO()
    if is_photo:
        image.convert("RGB").save(file, "JPEG", quality=JPEG_QUALITY, optimize=True)
    else:
        image.convert("RGBA" if image.has_transparency_data else "RGB").save(file, "PNG", optimize=True)
    return Picture("image/jpeg" if is_photo else "image/png", file.getvalue(), *image.size)
