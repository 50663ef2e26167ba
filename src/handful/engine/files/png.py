"""PNG: 16 bits, straight cover, sRGB, as the PNG specification (W3C, third edition) says."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path

import cv2
import numpy as np

from handful.engine.colour.transfer import encode_srgb
from handful.engine.files.writing import WriteError, write_atomically
from handful.engine.picture import Bent, Picture, straighten

_AFTER_IHDR = 33
"""Bytes of the signature and of the IHDR chunk, after which colour chunks must stand."""


def write_png(path: Path, picture: Picture, bend: Bent | None = None) -> None:
    """Write a picture as 16-bit RGBA, straight, with an sRGB chunk. Raises `WriteError`.

    Light beyond its cover, and above white, cannot be said in this format and is clipped.
    """
    if bend is not None:
        raise WriteError("A PNG cannot say how far the plate is bent; write an EXR.")
    if picture.shape[2:] != (4,):
        raise WriteError("A PNG holds light, and no heights or offsets; write an EXR.")
    straight = straighten(picture)
    signal = np.empty(picture.shape, np.float64)
    signal[..., :3] = encode_srgb(straight[..., :3])
    signal[..., 3] = np.clip(straight[..., 3], 0, 1)
    levels = np.round(signal * 65535).astype(np.uint16)
    encoded = cv2.imencode(".png", levels[..., [2, 1, 0, 3]])[1].tobytes()
    perceptual = _chunk(b"sRGB", b"\x00")
    whole = encoded[:_AFTER_IHDR] + perceptual + encoded[_AFTER_IHDR:]
    write_atomically(path, lambda part: _write_all(part, whole))


def _write_all(path: Path, content: bytes) -> None:
    path.write_bytes(content)


def _chunk(name: bytes, content: bytes) -> bytes:
    checksum = zlib.crc32(name + content)
    return struct.pack(">I", len(content)) + name + content + struct.pack(">I", checksum)
