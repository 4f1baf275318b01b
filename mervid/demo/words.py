"""What the demo recordings say of themselves: `python -m mervid.demo.words` writes it into the files. All is made up.

The sound isn't touched: a recording's identity stays what it was.
"""

from __future__ import annotations

import base64
import io
from pathlib import Path

HERE = Path(__file__).parent / "tracks"
ALBUM = "Tideline Social"
WORDS = {
    "Copper Ferry": ("Tern & Tiller", "disco", "1978"),
    "Brass Tide": ("The Wharf Nine", "funk", "1974"),
    "Salt Ledger": ("Odd Tonnage", "hip-hop", "1994"),
    "Night Barge": ("Ilse Marram", "disco", "1979"),
    "Pontoon Static": ("Buoy Signal", "electronic", "2011"),
    "Slack Water": ("Lumen Dredge", "electronic", "2016"),
    "Lamplighter": ("Oda Fenwright", "soul", "1976"),
    "Lamplighter (voice only)": ("Oda Fenwright", "soul", "1976"),
}


def cover(side: int = 420) -> bytes:
    """A picture for the sleeve: a boat with lanterns on the water."""
    from PIL import Image, ImageDraw

    image = Image.new("RGB", (side, side), "#24303a")
    draw = ImageDraw.Draw(image)
    water = int(side * 0.62)
    draw.rectangle((0, water, side, side), fill="#1a242c")
    hull = [(0.18, 0.6), (0.82, 0.6), (0.72, 0.71), (0.28, 0.71)]
    draw.polygon([(x * side, y * side) for x, y in hull], fill="#e9dfc6")
    draw.line((side * 0.5, side * 0.6, side * 0.5, side * 0.16), fill="#e9dfc6", width=5)
    for k in range(7):
        x, y = side * (0.2 + 0.1 * k), side * (0.4 - 0.03 * (3 - abs(k - 3)) ** 1.5)
        draw.line((x, y - 12, side * 0.5, side * 0.16), fill="#6d6a5c", width=2)
        draw.ellipse((x - 11, y - 11, x + 11, y + 13), fill="#d98a3d")
        for j in range(4):
            width = 16 - 3 * j
            draw.line((x - width, water + 26 + 22 * j, x + width, water + 26 + 22 * j), fill="#8a5a2c", width=3)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=88)
    return out.getvalue()


def main() -> None:
    """Write the words and the picture into the files."""
    from mutagen.flac import Picture
    from mutagen.oggvorbis import OggVorbis

    picture = Picture()
    picture.type, picture.mime, picture.data = 3, "image/jpeg", cover()
    packed = base64.b64encode(picture.write()).decode()
    for number, (title, (artist, genre, year)) in enumerate(WORDS.items(), 1):
        file = OggVorbis(HERE / f"{title}.ogg")
        file["title"], file["artist"], file["album"] = title, artist, ALBUM
        file["genre"], file["date"], file["tracknumber"] = genre, year, str(number)
        file["metadata_block_picture"] = packed
        file.save()


if __name__ == "__main__":
    main()
