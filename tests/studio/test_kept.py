"""Small pictures kept on disk, and who gives way to whom."""

import os
import tempfile
from pathlib import Path
from unittest import TestCase

from handful.studio.preview.kept import KeptPictures


class Kept(TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.kept = KeptPictures(Path(folder.name), most_bytes=3000)

    def test_kept_by_name_and_group(self) -> None:
        self.assertIsNone(self.kept.get("a"))
        self.kept.put("a", b"one", "shot")
        self.kept.put("b", b"two", "shot")
        self.kept.put("c", b"three")
        found = [self.kept.get(name) for name in "abc"]
        self.assertEqual(found, [b"one", b"two", b"three"])
        self.assertEqual((self.kept.last("shot"), self.kept.last("c")), (b"two", None))

    def test_those_not_used_for_longest_go(self) -> None:
        """Within the bytes that may be kept; what was looked at lately stays."""
        for i in range(5):
            self.kept.put(str(i), bytes(1000))
            os.utime(self.kept._path(str(i)), (i, i))
        self.assertIsNotNone(self.kept.get("0"))
        self.kept.clean()
        self.assertEqual([self.kept.get(str(i)) is not None for i in range(5)], [True, False, False, True, True])  # fmt: skip

    def test_a_folder_that_cannot_be_written(self) -> None:
        """Nothing is kept, and nothing fails."""
        blocked = self.kept.folder / "file"
        blocked.write_text("")
        kept = KeptPictures(blocked)
        kept.put("a", b"one", "group")
        self.assertIsNone(kept.get("a"))
