"""Small photos for tests."""

from __future__ import annotations

import base64
import io

from PIL import Image


def jpeg(wide: int = 40, high: int = 30, *, turned: int = 1, place: str = "") -> bytes:
    """A photo as a camera writes it. turned: how it was held (EXIF orientation); place: where it says it was taken."""
    out, about = io.BytesIO(), Image.Exif()
    about[0x0112] = turned
    if place:
        about[0x010E] = place
    half = Image.new("RGB", (wide, high), (180, 60, 20))
    half.paste((20, 60, 180), (0, 0, wide // 2, high))
    half.save(out, "JPEG", exif=about)
    return out.getvalue()


def address(image: bytes) -> str:
    """The same as the page sends it."""
    return f"data:image/jpeg;base64,{base64.b64encode(image).decode()}"
