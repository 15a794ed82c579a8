"""Separating 9 megapixels of 12-ink art beside Pillow's median-cut quantiser, clean and as JPEG, in one run.

Times depend on the machine, so only the ratios are compared with anything.
"""

import io

import numpy as np
from large_picture import INKS, large_picture, timed
from PIL import Image

from sketchloom.core.picture import load_picture
from sketchloom.core.regions import SeparateSettings, clear_ground, find_tones, label_map, plan_inks

REPEATS = 3


def separate(data: bytes, name: str) -> int:
    """Separate a picture and return how many inks it has; opening it is not timed by the caller's reference either."""
    picture = load_picture(data, name)
    settings = SeparateSettings(ground="keep")

    def work() -> None:
        tones = find_tones(picture, settings)
        ground = clear_ground(tones, "keep")
        plan = plan_inks(tones, ground, settings)
        label_map(tones, ground, plan)
        found.append(len(plan.palette))

    found: list[int] = []
    took = min(timed(work) for _ in range(REPEATS))
    image = Image.fromarray(picture.rgba[..., :3])
    reference = min(timed(lambda: image.quantize(len(INKS), method=Image.Quantize.MEDIANCUT)) for _ in range(REPEATS))
    print(f"{name}: {found[0]} inks in {took:.2f} s, median cut {reference:.2f} s, ratio {took / reference:.2f}")
    return found[0]


def main() -> None:
    """Print both ratios."""
    rgb: np.ndarray = large_picture()
    for name, options in (("clean.png", {}), ("compressed.jpg", {"quality": 80})):
        held = io.BytesIO()
        Image.fromarray(rgb).save(held, "JPEG" if options else "PNG", **options)
        separate(held.getvalue(), name)


main()
