"""Files that call themselves pictures: read right, or refused with a sentence, in little memory."""

import io
import struct
import subprocess
import sys
import zipfile
import zlib

import numpy as np
import pytest
from PIL import Image

from anvilsong.core.errors import BadInput
from anvilsong.instruments import open_picture, pixels_of
from anvilsong.instruments.limits import PICTURE_BYTES
from anvilsong.instruments.pictures import LONG_SIDE_PX

RNG = np.random.default_rng(3)
# Dark left half, bright right half, a marked corner: turned or cut is seen.
HALVES = np.full((300, 400, 3), 40, np.uint8)
HALVES[:, 200:] = 210
HALVES[:60, :60] = (250, 20, 20)
PLAIN = Image.fromarray(HALVES)


def encoded(image, kind, **more):
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def claiming(width, height):
    """A small PNG whose header claims a size."""

    def chunk(name, data):
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(bytes(99_999)))
        + chunk(b"IEND", b"")
    )


def zipped():
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("picture.png", "no picture" * 999)
    return out.getvalue()


REFUSED = {
    "nothing": (b"", "choose a picture"),
    "text": (b"hello" * 999, "a PNG or a JPEG"),
    "a zip named png": (zipped(), "a PNG or a JPEG"),
    "a GIF": (encoded(PLAIN.convert("P"), "GIF"), "a PNG or a JPEG"),
    "half a JPEG": (encoded(PLAIN, "JPEG")[:2500], "cut short"),
    "half a PNG": (encoded(PLAIN, "PNG")[:700], "cut short"),
    "20,000 pixels square": (claiming(20_000, 20_000), "million pixels"),
    "a lie of 39 megapixels": (claiming(6500, 6000), "cut short"),
    "41 megapixels": (claiming(6900, 6000), "at most 40 million"),
    "moving": (encoded(PLAIN, "PNG", save_all=True, append_images=[PLAIN.rotate(9)]), "stands still"),
    "a stamp": (encoded(PLAIN.resize((90, 90)), "PNG"), "at least 160"),
    "too many bytes": (b"x" * (PICTURE_BYTES + 1), "at most 25 MB"),
}


@pytest.mark.parametrize("name", REFUSED)
def test_what_is_no_picture_is_refused_with_a_sentence(name):
    data, words = REFUSED[name]
    with pytest.raises(BadInput, match=words) as trouble:
        open_picture(data)
    assert trouble.value.problems[0].field == "photograph"


def turned(orientation):
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = orientation, "A maker"
    return exif.tobytes()


READ = {
    "JPEG": encoded(PLAIN, "JPEG"),
    "PNG": encoded(PLAIN, "PNG"),
    "grey": encoded(PLAIN.convert("L"), "PNG"),
    "palette": encoded(PLAIN.convert("P"), "PNG"),
    "CMYK": encoded(PLAIN.convert("CMYK"), "JPEG"),
    "see-through": encoded(PLAIN.convert("RGBA"), "PNG"),
    "16 bit": encoded(Image.fromarray((HALVES[:, :, 1].astype(np.uint16) << 8) + 9), "PNG"),
    "upside down by its note": encoded(PLAIN.rotate(180), "JPEG", exif=turned(3)),
    "in passes": encoded(PLAIN, "JPEG", progressive=True),
}


@pytest.mark.parametrize("name", READ)
def test_what_is_a_picture_is_read_right(name):
    picture = open_picture(READ[name])
    pixels = pixels_of(picture.jpeg)
    assert pixels.shape == (300, 400, 3)
    assert (picture.width_px, picture.height_px) == (400, 300)
    assert pixels[200, 100].mean() == pytest.approx(40, abs=8)
    assert pixels[200, 300].mean() == pytest.approx(210, abs=12)


def test_a_picture_on_its_side_is_set_up():
    picture = open_picture(encoded(PLAIN.rotate(90, expand=True), "JPEG", exif=turned(6)))
    assert (picture.width_px, picture.height_px) == (400, 300)


def test_nothing_but_the_picture_is_kept():
    data = encoded(PLAIN, "JPEG", exif=turned(1), comment=b"52.1 N 4.3 E", quality=95)
    kept = open_picture(data).jpeg
    assert b"maker" not in kept
    assert b"52.1" not in kept
    assert dict(Image.open(io.BytesIO(kept)).getexif()) == {}


def test_large_pictures_are_kept_smaller_in_shape():
    picture = open_picture(encoded(Image.fromarray(np.tile(HALVES, (12, 12, 1))), "JPEG"))
    assert max(picture.width_px, picture.height_px) == LONG_SIDE_PX
    assert picture.width_px / picture.height_px == pytest.approx(4 / 3, abs=0.01)


def test_the_largest_pictures_take_less_than_half_a_gigabyte(tmp_path):
    """Each in a process of its own, whose most is asked afterwards."""
    wide = Image.fromarray(np.tile(np.arange(6000, dtype=np.uint8)[:, None, None], (1, 6600, 3)))
    small = wide.crop((0, 0, 4880, 4880))
    for number, data in enumerate(
        (
            encoded(wide.convert("RGBA"), "PNG", compress_level=1),
            encoded(small, "JPEG", progressive=True, subsampling=0),
        )
    ):
        file = tmp_path / f"{number}.bin"
        file.write_bytes(data)
        code = (
            "import sys; from anvilsong.instruments import open_picture;"
            "open_picture(open(sys.argv[1], 'rb').read());"
            "print(open('/proc/self/status').read().split('VmHWM:')[1].split()[0])"
        )
        said = subprocess.run(
            [sys.executable, "-c", code, str(file)], capture_output=True, text=True, check=True
        )
        assert int(said.stdout) < 500_000  # kB
