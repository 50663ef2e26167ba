"""Pictures, tracks, cameras and paths as files in open formats, each as its standard says."""

from handful.engine.files.about import About
from handful.engine.files.bringing import brought_in
from handful.engine.files.cameras import camera_text, read_camera
from handful.engine.files.formats import FORMATS, FileFormat
from handful.engine.files.keeping import drop_oldest
from handful.engine.files.naming import frame_name
from handful.engine.files.paths import read_paths
from handful.engine.files.plates import PlateFiles, StillFile
from handful.engine.files.stills import read_picture
from handful.engine.files.tracks import read_track, track_text
from handful.engine.files.writing import WriteError, clear_parts, write_atomically

__all__ = [
    "FORMATS",
    "About",
    "FileFormat",
    "PlateFiles",
    "StillFile",
    "WriteError",
    "brought_in",
    "camera_text",
    "clear_parts",
    "drop_oldest",
    "frame_name",
    "read_camera",
    "read_paths",
    "read_picture",
    "read_track",
    "track_text",
    "write_atomically",
]
