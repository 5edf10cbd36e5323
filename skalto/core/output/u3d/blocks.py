"""Blocks of a U3D file (ECMA-363, 8.3 and 9.2): their types, and numbers and strings as they are written."""

from __future__ import annotations

import struct

FILE_HEADER = 0x00443355
MODIFIER_CHAIN = 0xFFFFFF14
GROUP_NODE = 0xFFFFFF21
MODEL_NODE = 0xFFFFFF22
SHADING_MODIFIER = 0xFFFFFF45
MESH_DECLARATION = 0xFFFFFF31
MESH_CONTINUATION = 0xFFFFFF3B
LIT_SHADER = 0xFFFFFF53
MATERIAL = 0xFFFFFF54
TEXTURE_DECLARATION = 0xFFFFFF55
TEXTURE_CONTINUATION = 0xFFFFFF5C
RGB = 0x0E
"""A picture's channels: red, green and blue (9.8.3)."""
JPEG, PNG = 1, 2
"""How a picture is packed: JPEG of 24 bits, PNG (9.8.3)."""
AMBIENT = 0.1
"""Of a material's colour, what is seen where no light falls (our own choice; no source)."""
UTF8 = 106
"""The encoding of strings, a number of IANA's registry of character sets."""
STATIC_LIMIT = 0x3FFF
"""A static context of this many values or more is written as plain numbers of 32 bits (10.3.3, tried with the runtime)."""


def u32(*values: int) -> bytes:
    return struct.pack(f"<{len(values)}I", *values)


def f32(*values: float) -> bytes:
    return struct.pack(f"<{len(values)}f", *values)


def text(value: str) -> bytes:
    """A string: its length in bytes, then UTF-8."""
    data = value.encode()
    return struct.pack("<H", len(data)) + data


def padded(data: bytes) -> bytes:
    return data + b"\0" * (-len(data) % 4)


def block(kind: int, data: bytes) -> bytes:
    """A block without metadata."""
    return u32(kind, len(data), 0) + padded(data)
