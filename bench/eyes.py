"""Pictures as colour-blind eyes see them, side by side, to be looked at.

    .venv/bin/python bench/eyes.py docs/screenshots/phrase.png ... --out bench/out

Each comes as it is, with protanopia and with deuteranopia. Source: Machado, Oliveira & Fernandes 2009, IEEE TVCG 15(6),
severity 1.0, on linear RGB (IEC 61966-2-1). What to look for: can everything still be told apart by shape, weight and
letter?
"""

from __future__ import annotations

import argparse
from pathlib import Path

import numpy as np
from PIL import Image

EYES = {
    "protanopia": ((0.152286, 1.052583, -0.204868), (0.114503, 0.786281, 0.099216), (-0.003882, -0.048116, 1.051998)),
    "deuteranopia": ((0.367322, 0.860646, -0.227968), (0.280085, 0.672501, 0.047413), (-0.011820, 0.042940, 0.968881)),
}


def seen(image: np.ndarray, kind: str) -> np.ndarray:
    """(h, w, 3) of sRGB, 0 to 255, as these eyes see it."""
    c = image / 255
    linear = np.where(c <= 0.04045, c / 12.92, ((c + 0.055) / 1.055) ** 2.4)
    out = np.clip(linear @ np.array(EYES[kind]).T, 0, 1)
    return np.rint(255 * np.where(out <= 0.0031308, 12.92 * out, 1.055 * out ** (1 / 2.4) - 0.055)).astype(np.uint8)


def main() -> None:
    """Write them."""
    p = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    p.add_argument("pictures", nargs="+", type=Path)
    p.add_argument("--out", type=Path, default=Path("bench/out"))
    options = p.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    for path in options.pictures:
        image = np.asarray(Image.open(path).convert("RGB"))
        row = np.concatenate([image, *(seen(image, kind) for kind in EYES)], axis=0)
        Image.fromarray(row).save(options.out / f"eyes-{path.name}")
        print(options.out / f"eyes-{path.name}")


if __name__ == "__main__":
    main()
