"""Photos as they are kept: decoded and written anew, so that what is stored is a picture and nothing else that was in the file."""

from __future__ import annotations

import base64
import io
import warnings

from PIL import Image, ImageOps, UnidentifiedImageError

from mellow_span.core.errors import InputError

# The longest side of a photo [px]; what is longer is made smaller. A file that claims more pixels than that is not decoded at all.
LONGEST, MOST_PIXELS = 1600, 50_000_000
QUALITY = 85
HEAD = "data:image/jpeg;base64,"


def written_anew(image: str) -> str:
    """Return a photo, given as a data address, written anew as one: upright, at most 1600 px, without place, camera or anything beside its pixels.

    Raises InputError where it is no JPEG that can be decoded whole.
    """
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(base64.b64decode(image.removeprefix(HEAD), validate=True)), formats=["JPEG"]) as given:
                if given.width * given.height > MOST_PIXELS:
                    raise ValueError("too many pixels")
                upright = ImageOps.exif_transpose(given).convert("RGB")
    # Pillow raises whatever the decoder found, SyntaxError among them.
    except (OSError, ValueError, SyntaxError, UnidentifiedImageError, Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise InputError("data.image", "a file that cannot be shown", "a photo as a JPEG that can be opened") from None
    upright.thumbnail((LONGEST, LONGEST))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=QUALITY)
    return HEAD + base64.b64encode(out.getvalue()).decode()
