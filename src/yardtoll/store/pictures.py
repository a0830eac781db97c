"""Whether bytes are a picture that may be kept and shown."""

import io

from PIL import Image

KINDS = ("PNG", "JPEG", "WEBP", "GIF", "BMP")
MOST_PIXELS = 80_000_000


def is_picture(data: bytes) -> bool:
    """A picture of a kind that holds pixels alone, and not too many; by its head."""
    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as picture:
            return 0 < picture.width * picture.height <= MOST_PIXELS
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        return False
