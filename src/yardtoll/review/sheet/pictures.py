"""Photos as they are published: upright pixels alone, without where and when they were taken."""

import io

from PIL import Image, ImageOps

LARGEST_SIDE = 2400
_QUALITY = 88
_LOSSLESS = ("PNG", "GIF", "BMP")


def published(data: bytes) -> tuple[str, bytes] | None:
    """(media type, bytes) of a picture to publish; None of one that cannot be read.

    Everything beside the pixels stays behind: EXIF with its position, comments, previews. The
    camera's note on which way is up is carried out first.
    """
    try:
        with Image.open(io.BytesIO(data)) as stored:
            kind = stored.format
            picture = ImageOps.exif_transpose(stored)
            picture.thumbnail((LARGEST_SIDE, LARGEST_SIDE))
            lossless = kind in _LOSSLESS
            plain = picture.convert("RGBA" if lossless or _has_alpha(picture) else "RGB")
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return None
    # A picture made anew has no memory of the one it came from.
    clean = Image.new(plain.mode, plain.size)
    clean.paste(plain)
    made = io.BytesIO()
    if clean.mode == "RGBA":
        clean.save(made, "PNG", optimize=True)
        return "image/png", made.getvalue()
    clean.save(made, "JPEG", quality=_QUALITY)
    return "image/jpeg", made.getvalue()


def _has_alpha(picture: Image.Image) -> bool:
    return picture.mode in ("RGBA", "LA", "PA") or "transparency" in picture.info
