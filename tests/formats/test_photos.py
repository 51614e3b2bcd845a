"""Photos: made small, stripped, and refused in words where they are none."""

import base64
import io
from pathlib import Path

import pytest
from PIL import Image

from keeve.core.message.errors import TakeoffError
from keeve.formats.reading.photo import LONGEST, MOST_KEPT_BYTES, read_photo


def photo(path: Path, size: tuple[int, int], kind: str = "JPEG", *, turned: int = 0) -> Path:
    """Write a noisy photo that says where it was taken."""
    picture = Image.effect_noise(size, 90).convert("RGB")
    picture.paste((250, 10, 10), (0, 0, size[0] // 2, size[1] // 8))
    exif = Image.Exif()
    exif[0x010E] = "Pellow Reach, at the lock"
    if turned:
        exif[0x0112] = turned
    picture.save(path, kind, exif=exif)
    return path


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_a_photo_is_made_small_and_says_nothing_of_where_it_was_taken(tmp_path: Path, kind: str) -> None:
    source = photo(tmp_path / "it", (3200, 2400), kind)
    assert b"Pellow Reach" in source.read_bytes()
    found = read_photo(source)
    kept = base64.b64decode(found["jpeg"])
    assert len(kept) <= MOST_KEPT_BYTES * 1.5  # noise is the worst there is
    assert b"Pellow" not in kept
    with Image.open(io.BytesIO(kept)) as small:
        assert small.format == "JPEG"
        assert dict(small.getexif()) == {}
        assert small.size == (found["wide"], found["high"]) == (LONGEST, LONGEST * 3 // 4)


def test_a_photo_that_lies_on_its_side_is_put_upright(tmp_path: Path) -> None:
    found = read_photo(photo(tmp_path / "it", (800, 400), turned=6))
    assert (found["wide"], found["high"]) == (400, 800)


def test_what_is_no_photo_says_so(tmp_path: Path) -> None:
    whole = photo(tmp_path / "whole", (800, 400)).read_bytes()
    gif = io.BytesIO()
    Image.new("RGB", (5, 5)).save(gif, "GIF")
    for number, bytes_ in enumerate((b"", b"<svg/>", b"%PDF-1.7", whole[:300], gif.getvalue())):
        (tmp_path / str(number)).write_bytes(bytes_)
        with pytest.raises(TakeoffError) as refused:
            read_photo(tmp_path / str(number))
        assert "no photo" in str(refused.value)


def test_a_photo_of_too_many_pixels_is_never_unpacked(tmp_path: Path) -> None:
    Image.new("1", (9000, 9000)).save(tmp_path / "bomb", "PNG")
    with pytest.raises(TakeoffError) as refused:
        read_photo(tmp_path / "bomb")
    assert "60 million pixels" in str(refused.value)
