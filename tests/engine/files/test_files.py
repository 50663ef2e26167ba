"""Files, read back by other programs than the ones that wrote them."""

import os
import struct
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Literal
from unittest import TestCase, mock

import av
import cv2
import numpy as np
import OpenEXR
from PIL import Image

from handful.engine.files import (
    FORMATS,
    About,
    FileFormat,
    WriteError,
    frame_name,
    read_picture,
)
from handful.engine.files.exr import write_exr
from handful.engine.files.png import write_png
from handful.engine.files.stills import read_display_still
from handful.engine.picture import Bent


def _picture() -> np.ndarray:
    random = np.random.default_rng(2)
    picture = random.random((33, 47, 4), np.float32)
    picture[..., :3] *= 6
    return picture


DEPTHS: tuple[tuple[Literal["half", "float"], float], ...] = (("half", 2**-11), ("float", 0))


class InFolder(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)


class EXR(InFolder):
    def test_by_another_reader(self) -> None:
        """FFmpeg's own EXR decoder, written apart from the OpenEXR library, reads the same px."""
        for depth, tolerance in DEPTHS:
            picture = _picture()
            path = self.folder / f"{depth}.exr"
            write_exr(path, picture, About(1, Fraction(25)), depth)
            with av.open(str(path)) as file:
                frame = next(file.decode(video=0))
            self.assertEqual((frame.width, frame.height), (47, 33))
            self.assertEqual(
                frame.format.name, "gbrapf32le" if depth == "float" else frame.format.name
            )
            planes = {}
            for name, plane in zip("GBRA", frame.planes, strict=True):
                kind = np.dtype("f4" if frame.format.name.startswith("gbrapf32") else "f2")
                rows = np.frombuffer(bytes(plane), kind).reshape(33, -1)[:, :47]
                planes[name] = rows.astype(np.float32)
            read = np.stack([planes[name] for name in "RGBA"], axis=2)
            np.testing.assert_allclose(read, picture, rtol=tolerance)

    def test_header(self) -> None:
        """OpenEXR's standard attributes: ZIP, BT.709 chromaticities, an exact frame rate."""
        path = self.folder / "a.exr"
        write_exr(path, _picture(), About(1, Fraction(24000, 1001)), "half")
        with OpenEXR.File(str(path)) as file:
            header = file.header()
            self.assertEqual(header["compression"], OpenEXR.ZIP_COMPRESSION)
            self.assertEqual(header["framesPerSecond"], Fraction(24000, 1001))
            np.testing.assert_allclose(
                header["chromaticities"],
                (0.64, 0.33, 0.3, 0.6, 0.15, 0.06, 0.3127, 0.329),
                rtol=1e-6,
            )

    def test_timecode(self) -> None:
        """SMPTE ST 12-1: frames counted from midnight; drop-frame leaves out two numbers a minute
        but each tenth; above 30 a second pairs are counted, and the second of one is flagged."""
        path = self.folder / "t.exr"
        for frame, rate, drops, wanted in (
            (1001, Fraction(25), False, (0, 0, 40, 1, 0, 0)),
            (1800, Fraction(30000, 1001), True, (0, 1, 0, 2, 1, 0)),
            (107_892, Fraction(30000, 1001), True, (1, 0, 0, 0, 1, 0)),
            (1800, Fraction(30000, 1001), False, (0, 1, 0, 0, 0, 0)),
            (1001, Fraction(50), False, (0, 0, 20, 0, 0, 1)),
            (3600, Fraction(60000, 1001), True, (0, 1, 0, 2, 1, 0)),
        ):
            write_exr(path, _picture(), About(frame, rate, drops), "half")
            with OpenEXR.File(str(path)) as file:
                code, written = file.header()["timeCode"], file.header()["framesPerSecond"]
                got = (
                    code.hours,
                    code.minutes,
                    code.seconds,
                    code.frame,
                    code.dropFrame,
                    code.fieldPhase,
                )
                self.assertEqual(tuple(map(int, got)), wanted)
                self.assertEqual(written, rate)
            self.assertIn(b"framesPerSecond\0rational\0", path.read_bytes())

    def test_no_timecode_where_the_standard_has_none(self) -> None:
        """SMPTE ST 12-1 ends at 60 frames a second."""
        path = self.folder / "fast.exr"
        write_exr(path, _picture(), About(1, Fraction(120)), "half")
        with OpenEXR.File(str(path)) as file:
            self.assertNotIn("timeCode", file.header())

    def test_overscan(self) -> None:
        """OpenEXR's windows: the display window is the shot, the data window what there is of it."""
        path = self.folder / "wide.exr"
        write_exr(path, _picture(), About(1, Fraction(25), overscan=4), "half")
        with OpenEXR.File(str(path)) as file:
            windows = [np.asarray(file.header()[name]) for name in ("displayWindow", "dataWindow")]
        np.testing.assert_array_equal(windows[0], [[0, 0], [38, 24]])
        np.testing.assert_array_equal(windows[1], [[-4, -4], [42, 28]])
        self.assertEqual(read_picture(path).shape, (33, 47, 4))

    def test_light_beyond_half(self) -> None:
        """IEEE 754 binary16 ends at 65504: more light is held there and never becomes infinite."""
        path = self.folder / "bright.exr"
        write_exr(path, np.full((2, 2, 4), 1e9, np.float32), About(1, Fraction(25)), "half")
        np.testing.assert_array_equal(read_picture(path), 65504)


class PNG(InFolder):
    def test_by_other_readers(self) -> None:
        """Pillow opens it as straight RGBA in sRGB; OpenCV reads the 16-bit levels.

        IEC 61966-2-1: linear 0.5 is level 0.7354 of the signal. Straight: 0.25 over cover 0.5.
        """
        picture = np.zeros((4, 6, 4), np.float32)
        picture[:, :3] = (0.25, 0, 0, 0.5)
        path = self.folder / "a.png"
        write_png(path, picture)
        with Image.open(path) as image:
            self.assertEqual((image.mode, image.size, image.info["srgb"]), ("RGBA", (6, 4), 0))
            self.assertEqual(image.getpixel((0, 0)), (188, 0, 0, 128))
            self.assertEqual(image.getpixel((5, 3)), (0, 0, 0, 0))
        levels = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
        assert levels is not None
        self.assertEqual(levels.dtype, np.uint16)
        self.assertAlmostEqual(levels[0, 0, 2] / 65535, 0.735357, delta=2e-5)
        self.assertAlmostEqual(levels[0, 0, 3] / 65535, 0.5, delta=1e-5)

    def test_bit_depth_in_the_header(self) -> None:
        """PNG specification, 11.2.1: bit depth 16 and colour type 6 at bytes 24 and 25."""
        path = self.folder / "a.png"
        write_png(path, _picture())
        self.assertEqual(struct.unpack_from(">BB", path.read_bytes(), 24), (16, 6))

    def test_reading_back(self) -> None:
        """What has no light beyond its cover comes back within a 16-bit step."""
        picture = _picture()
        picture[..., :3] = np.minimum(picture[..., :3], picture[..., 3:])
        path = self.folder / "a.png"
        write_png(path, picture)
        np.testing.assert_allclose(read_picture(path), picture, atol=1e-4)


def _bent(way: FileFormat) -> Bent | None:
    """What a format that holds a bent plate cannot do without."""
    height, width = _picture().shape[:2]
    plate = np.zeros((height, width, 3), np.float32)
    return Bent(plate[..., :2], None, plate) if way.with_plate else None


class Writing(InFolder):
    def test_names(self) -> None:
        """At least four digits, plain letters, never empty."""
        self.assertEqual(frame_name("Mast strike", 1001, "exr"), "mast-strike.1001.exr")
        self.assertEqual(frame_name("Éclair / ../2", 7, "png"), "eclair-2.0007.png")
        self.assertEqual(frame_name("雷", 7, "png"), "element.0007.png")

    @unittest.skipUnless(Path("/dev/full").exists(), "needs /dev/full")
    def test_full_disk(self) -> None:
        """Linux's /dev/full refuses every write: the error says so and nothing is left behind."""
        full = self.folder / "full"
        full.symlink_to("/dev/full")
        for way in FORMATS.values():
            path = self.folder / f"frame.{way.suffix}"
            with mock.patch.object(Path, "with_name", return_value=full):
                with self.assertRaisesRegex(WriteError, "could not be written"):
                    way.write(path, _picture(), About(1, Fraction(25)), _bent(way))
            self.assertFalse(path.exists())
            full.unlink(missing_ok=True)
            full.symlink_to("/dev/full")

    def test_a_folder_that_is_a_file(self) -> None:
        """An unusable folder is a sentence, not a stack of errors, and leaves nothing."""
        (self.folder / "out").write_text("in the way")
        for way in FORMATS.values():
            with self.assertRaisesRegex(WriteError, "could not be written"):
                path = self.folder / "out" / f"a.{way.suffix}"
                way.write(path, _picture(), About(1, Fraction(25)), _bent(way))
        self.assertEqual(os.listdir(self.folder), ["out"])

    def test_half_a_file_never_has_the_name(self) -> None:
        """A write that fails halfway leaves neither the file nor its part, and keeps the old one."""
        path = self.folder / "a.png"
        write_png(path, _picture())
        before = path.read_bytes()
        with mock.patch("os.replace", side_effect=OSError(28, "No space left on device")):
            with self.assertRaisesRegex(WriteError, "No space left"):
                write_png(path, np.zeros((4, 4, 4), np.float32))
        self.assertEqual(path.read_bytes(), before)
        self.assertEqual(os.listdir(self.folder), ["a.png"])


class Stills(InFolder):
    def test_reduced(self) -> None:
        """Pillow's reduction of the same picture, within two levels."""
        levels = np.tile(np.arange(0, 240, 2, dtype=np.uint8)[None, :, None], (80, 1, 3))
        path = self.folder / "still.png"
        Image.fromarray(levels).save(path)
        read = read_display_still(path, 60, 40)
        wanted = np.asarray(Image.fromarray(levels).reduce(2))
        self.assertLessEqual(int(np.abs(read.astype(int) - wanted).max()), 2)

    def test_no_picture(self) -> None:
        """What is no picture is an error with its name."""
        (self.folder / "still.jpg").write_text("no picture")
        with self.assertRaisesRegex(OSError, r"still\.jpg"):
            read_display_still(self.folder / "still.jpg", 10, 10)
