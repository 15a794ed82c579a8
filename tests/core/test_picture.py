"""Ugly inputs."""

import io

import numpy as np
import pytest
from PIL import Image, ImageCms

from sketchloom.core.errors import PictureError
from sketchloom.core.picture import load_picture, reduce_picture
from tests.conftest import picture_of


def saved(image: Image.Image, kind: str = "PNG", **options) -> bytes:
    buffer = io.BytesIO()
    image.save(buffer, kind, **options)
    return buffer.getvalue()


def test_the_exif_turn_is_applied():
    # EXIF 2.32, tag 0x0112: value 6 means the first row is the right-hand side
    image = Image.new("RGB", (40, 20), "white")
    image.paste("red", (0, 0, 10, 20))
    exif = Image.Exif()
    exif[0x0112] = 6
    picture = load_picture(saved(image, "PNG", exif=exif.tobytes()))
    assert (picture.width, picture.height) == (20, 40)
    assert picture.rgba[5, 10].tolist() == [255, 0, 0, 255]
    assert picture.rgba[35, 10].tolist() == [255, 255, 255, 255]


def test_deep_greys_are_scaled_not_clipped():
    ramp = np.tile(np.linspace(0, 65535, 256).astype(np.uint16), (4, 1))
    picture = load_picture(saved(Image.fromarray(ramp)))
    assert picture.rgba[0, :, 0].tolist() == np.arange(256).tolist()
    nearly_black = np.full((4, 4), 200, np.uint16)
    assert load_picture(saved(Image.fromarray(nearly_black))).rgba[0, 0, 0] == 1
    real = Image.fromarray(np.tile(np.linspace(0, 1, 11, dtype=np.float32), (2, 1)))
    assert load_picture(saved(real, "TIFF")).rgba[0, 5, 0] in (127, 128)


@pytest.mark.parametrize("mode", ["1", "L", "LA", "P", "RGB", "RGBA", "CMYK", "I;16"])
@pytest.mark.parametrize("kind", ["PNG", "TIFF", "JPEG", "WEBP", "BMP", "GIF"])
def test_every_mode_of_every_kind_is_read(mode, kind):
    image = Image.new("RGB", (16, 12), (200, 40, 60))
    image = Image.fromarray(np.full((12, 16), 30000, np.uint16)) if mode == "I;16" else image.convert(mode)
    try:
        data = saved(image, kind)
    except (OSError, ValueError):
        pytest.skip(f"no {kind} holds {mode}")
    picture = load_picture(data)
    assert picture.rgba.shape == (12, 16, 4)
    assert picture.opaque
    if mode in ("RGB", "RGBA", "CMYK") and kind != "GIF":
        assert np.abs(picture.rgba[5, 5, :3].astype(int) - (200, 40, 60)).max() < 12


def test_palette_transparency_becomes_alpha():
    image = Image.new("P", (4, 4), 0)
    image.putpalette([255, 0, 0, 0, 0, 255])
    image.putpixel((1, 1), 1)
    picture = load_picture(saved(image, transparency=0))
    assert picture.rgba[0, 0, 3] == 0
    assert picture.rgba[1, 1].tolist() == [0, 0, 255, 255]


def test_a_broken_profile_is_left_aside_and_srgb_stays_as_it_is():
    image = Image.new("RGB", (4, 4), (100, 100, 100))
    broken = load_picture(saved(image, icc_profile=b"no profile at all"))
    assert broken.rgba[0, 0].tolist() == [100, 100, 100, 255]
    srgb = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    assert load_picture(saved(image, icc_profile=srgb)).rgba[0, 0].tolist() == [100, 100, 100, 255]


@pytest.mark.parametrize(
    ("data", "word"),
    [(b"", "empty"), (b"hello, this is text", "not a picture"), (b"\x89PNG\r\n\x1a\n", "not a picture")],
)
def test_what_is_no_picture_is_refused_in_one_sentence(data, word):
    with pytest.raises(PictureError, match=word) as error:
        load_picture(data, "thing.png")
    assert str(error.value).startswith("thing.png")
    assert "\n" not in str(error.value)


@pytest.mark.parametrize("kind", ["PNG", "JPEG", "WEBP", "TIFF", "BMP", "GIF"])
@pytest.mark.parametrize("share", [0.2, 0.5, 0.95])
def test_half_a_file_is_refused_or_read_but_never_crashes(kind, share):
    noise = Image.fromarray(np.random.default_rng(4).integers(0, 255, (64, 64, 3)).astype(np.uint8))
    data = saved(noise, kind)
    with pytest.raises(PictureError) as error:
        load_picture(data[: int(len(data) * share)], "half")
    assert str(error.value).startswith("half ")


def test_too_many_pixels_are_refused_before_anything_is_decoded():
    head = saved(Image.new("1", (1, 1)))
    huge = bytearray(head)
    huge[16:24] = (30000).to_bytes(4, "big") * 2
    import zlib

    huge[29:33] = zlib.crc32(bytes(huge[12:29])).to_bytes(4, "big")
    with pytest.raises(PictureError, match="30000 x 30000 pixels; at most 120 million"):
        load_picture(bytes(huge), "huge.png")


def test_an_animation_gives_its_first_picture_and_says_so():
    frames = [Image.new("RGB", (8, 8), colour) for colour in ("red", "blue")]
    buffer = io.BytesIO()
    frames[0].save(buffer, "GIF", save_all=True, append_images=frames[1:])
    picture = load_picture(buffer.getvalue(), "moving.gif")
    assert picture.rgba[0, 0, 0] > 250
    assert picture.note == "Page 1 of 2 in moving.gif is used."


def test_a_reduced_picture_keeps_colours_and_alpha():
    rgba = np.zeros((100, 200, 4), np.uint8)
    rgba[:, :100] = 200, 30, 40, 255
    small, scale = reduce_picture(picture_of(rgba), 5000)
    assert small.rgba.shape == (50, 100, 4)
    assert scale == 0.5
    assert small.rgba[25, 10].tolist() == [200, 30, 40, 255]
    assert small.rgba[25, 90, 3] == 0


def test_a_reduced_strip_keeps_a_pixel_across():
    strip = picture_of(np.full((1, 4000, 3), 90, np.uint8))
    small, scale = reduce_picture(strip, 1000)
    assert (small.width, small.height, scale) == (2000, 1, 0.5)
    assert reduce_picture(strip, 4000) == (strip, 1.0)
