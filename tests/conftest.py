"""Set up every test: a configuration folder of its own, and pictures to draw."""

import importlib
import io
import os
import pkgutil
from functools import lru_cache
from pathlib import Path

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # the tests themselves run side by side

import numpy as np
import pytest
from hypothesis import settings
from PIL import Image
from resvg_py import svg_to_bytes

import sketchloom
from sketchloom.core.errors import WriteError
from sketchloom.core.palette import Ink, Palette
from sketchloom.core.picture import Picture
from sketchloom.core.send import SVG, page_of_layers

TRIES = int(os.environ.get("SKETCHLOOM_TRIES", "1"))
"""How many times as many drawn examples as usual; more than 1 draws fresh ones each time (`make search`)."""


def tries(count: int, **more) -> settings:
    """So many drawn examples: the same ones each time, unless the tests are to search for new ones."""
    return settings(max_examples=count * TRIES, **more)


settings.register_profile("here", deadline=None, derandomize=TRIES == 1, max_examples=50 * TRIES)  # no test has a clock
settings.load_profile("here")
for _module in pkgutil.walk_packages(sketchloom.__path__, "sketchloom."):
    if not _module.name.endswith("__main__"):  # what is drawn depends on the constants of all that is loaded
        importlib.import_module(_module.name)


@pytest.fixture(autouse=True)
def own_settings(tmp_path_factory, monkeypatch):
    home = tmp_path_factory.mktemp("home")
    monkeypatch.setenv("XDG_CONFIG_HOME", str(home / "config"))
    monkeypatch.setenv("XDG_STATE_HOME", str(home / "state"))
    monkeypatch.setenv("XDG_DATA_HOME", str(home / "data"))


def render(svg: str, size: int, scale: int | None = None) -> np.ndarray:
    """Render with a renderer that is not ours, each pixel the mean of scale x scale; (size, size, 3) uint8."""
    return _rendered(svg, size, scale or (4 if size < 800 else 2)).copy()


@lru_cache(48)
def _rendered(svg: str, size: int, scale: int) -> np.ndarray:
    data = svg_to_bytes(svg_string=svg, width=size * scale, height=size * scale, dpi=96, background="white")
    fine = np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"), np.uint16)
    total = sum(fine[y::scale, x::scale] for y in range(scale) for x in range(scale))
    return np.rint(total / np.float32(scale**2)).astype(np.uint8)


def draw(body: str, size: int = 200, view: int | None = None) -> Picture:
    """Draw SVG shapes on white as a picture."""
    view = view or size
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {view} {view}">'
    return picture_of(render(f'{head}<rect width="{view}" height="{view}" fill="#fff"/>{body}</svg>', size))


def picture_of(rgb: np.ndarray) -> Picture:
    """Make a picture of (H, W, 3) or (H, W, 4) uint8."""
    if rgb.shape[2] == 3:
        rgb = np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    return Picture(np.ascontiguousarray(rgb))


FOUR_INKS = (
    '<rect x="20" y="20" width="160" height="160" fill="#3a2a33"/>'
    '<circle cx="100" cy="100" r="60" fill="#f2e6cf"/>'
    '<path d="M100 60 L135 130 L65 130 Z" fill="#8e2a5b"/>'
    '<ellipse cx="100" cy="150" rx="20" ry="8" fill="#4f8a4b"/>'
)


def save_layers(folder: Path) -> list[Path]:
    """Save a pot and a snail of 300 px, each drawn alone on clear ground."""
    paths = []
    shapes = {"pot": '<rect x="60" y="60" width="180" height="180"/>', "snail": '<circle cx="150" cy="90" r="40"/>'}
    for name, body in shapes.items():
        cover = 255 - draw(body, 300).rgba[..., 0]
        paths.append(folder / f"{name}.png")
        Image.fromarray(np.dstack([np.full((300, 300, 3), 40, np.uint8), cover])).save(paths[-1])
    return paths


def svg_text(stack, layers=None) -> str:
    """Write layers as SVG."""
    return SVG.write(page_of_layers(stack.cuts, layers)).decode()


def check_svg(text: str, stack, layers=None) -> None:
    """Read an SVG back."""
    try:
        right = SVG.is_right(text.encode(), page_of_layers(stack.cuts, layers))
    except (SyntaxError, ValueError, IndexError):
        right = False
    if not right:
        raise WriteError("It is not what was meant.")


def ink(name: str, colour: tuple[int, int, int]) -> Ink:
    """Make an ink that is known by its colour."""
    return Ink("#{:02x}{:02x}{:02x}".format(*colour), name, colour, colour)


def palette_of(*colours: tuple[int, int, int]) -> Palette:
    """Make a palette of colours."""
    return Palette(tuple(ink(f"Ink {i}", colour) for i, colour in enumerate(colours, 1)))
