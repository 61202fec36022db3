"""What the numbers of a picture mean: the encoding that its file states, and the way from there to sRGB.

In a PNG the first of these that is there holds: cICP, an embedded profile, sRGB, gAMA with cHRM (PNG, third edition, §4.3). Profiles
of primaries and curves are read here (ICC.1:2022), so that 16 bits and gray keep their precision; others go through the library.
"""

import struct
import zlib
from dataclasses import dataclass

import numpy as np

from huvren.core.color.arrays import Bytes, Floats
from huvren.core.color.matrices import LINEAR_SRGB_TO_XYZ_D65, XYZ_D65_TO_LINEAR_SRGB
from huvren.core.color.transfer import decode_srgb_array, encode_srgb_array

LEVELS = 65_536
CLOSE_CURVE, CLOSE_MATRIX = 0.002, 0.004
"""An encoding this near to sRGB, in linear light and in each entry of the matrix, is taken for it."""
SRGB_PLACES = (0.3127, 0.3290, 0.64, 0.33, 0.30, 0.60, 0.15, 0.06)
"""x and y of white, red, green and blue (IEC 61966-2-1), as cHRM orders them."""
PRIMARIES: dict[int, tuple[float, ...]] = {
    1: SRGB_PLACES,
    5: (0.3127, 0.3290, 0.64, 0.33, 0.29, 0.60, 0.15, 0.06),
    6: (0.3127, 0.3290, 0.630, 0.340, 0.310, 0.595, 0.155, 0.070),
    7: (0.3127, 0.3290, 0.630, 0.340, 0.310, 0.595, 0.155, 0.070),
    9: (0.3127, 0.3290, 0.708, 0.292, 0.170, 0.797, 0.131, 0.046),
    12: (0.3127, 0.3290, 0.680, 0.320, 0.265, 0.690, 0.150, 0.060),
}
"""By the numbers of ITU-T H.273, table 2."""
CURVES: dict[int, str] = {1: "video", 4: "2.2", 5: "2.8", 6: "video", 8: "linear", 13: "srgb", 14: "video", 15: "video"}
"""By the numbers of ITU-T H.273, table 3; video is shown by a power of 2.4 (ITU-R BT.1886)."""
HDR = {16: "PQ", 18: "HLG"}


@dataclass(frozen=True)
class Encoding:
    """How stored numbers become light.

    name : what the file calls it, to be said; linear : (65536,) or (65536, 3) linear light of each number of 16 bits
    to_srgb : (3, 3) from linear light of its primaries to linear sRGB
    """

    name: str
    linear: Floats
    to_srgb: Floats

    @property
    def is_srgb(self) -> bool:
        """Whether its numbers are those of sRGB."""
        curve = self.linear[::257]
        wanted = decode_srgb_array(np.arange(256) / 255)
        near = np.abs(curve - (wanted if curve.ndim == 1 else wanted[:, None])).max() < CLOSE_CURVE
        return bool(near and np.abs(self.to_srgb - np.eye(3)).max() < CLOSE_MATRIX)


def _numbers() -> Floats:
    return np.arange(LEVELS) / (LEVELS - 1)


def _xyz(x: float, y: float) -> Floats:
    return np.array([x / y, 1, (1 - x - y) / y])


BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])
D50, D65 = np.array([0.3457 / 0.3585, 1, 0.2958 / 0.3585]), LINEAR_SRGB_TO_XYZ_D65.sum(axis=1)


def _adapted(white: Floats, to: Floats) -> Floats:
    """(3, 3) from XYZ under one white to another, by linear Bradford (ICC.1:2022, annex E)."""
    cones = (BRADFORD @ to) / (BRADFORD @ white)
    return np.asarray(np.linalg.inv(BRADFORD) @ np.diag(cones) @ BRADFORD)


def _of_primaries(places: tuple[float, ...]) -> Floats:
    """(3, 3) to linear sRGB from primaries given as x and y of white, red, green and blue."""
    white = _xyz(*places[:2])
    columns = np.stack([_xyz(*places[at : at + 2]) for at in (2, 4, 6)], axis=-1)
    to_xyz = columns * np.linalg.solve(columns, white)
    return np.asarray(XYZ_D65_TO_LINEAR_SRGB @ _adapted(white, D65) @ to_xyz)


def _curve(data: bytes) -> Floats | None:
    """(65536,) linear light by a `curv` or `para` element, None for another (ICC.1:2022, §10.6 and §10.18)."""
    x, kind = _numbers(), data[:4]
    if kind == b"curv":
        (count,) = struct.unpack_from(">I", data, 8)
        if count == 0:
            return x
        entries = np.frombuffer(data, ">u2", count, 12).astype(np.float64)
        return np.asarray(x ** (entries[0] / 256) if count == 1 else np.interp(x, np.linspace(0, 1, count), entries / 65535))
    if kind != b"para":
        return None
    (form,) = struct.unpack_from(">H", data, 8)
    counts = {0: 1, 1: 3, 2: 4, 3: 5, 4: 7}
    if form not in counts:
        return None
    g, a, b, c, d, e, f = (*(value / 65536 for value in struct.unpack_from(f">{counts[form]}i", data, 12)), *[0.0] * 7)[:7]
    if form == 0:
        return np.asarray(x**g)
    if form in (1, 2):
        # Below where a·x + b is 0 the value is the constant alone.
        constant = c if form == 2 else 0.0
        return np.asarray(np.maximum(a * x + b, 0) ** g + constant)
    low, high = (c * x, 0.0) if form == 3 else (c * x + f, e)
    return np.asarray(np.where(x >= d, np.maximum(a * x + b, 0) ** g + high, low))


ELEMENTS = (b"A2B0", b"kTRC", b"rTRC", b"gTRC", b"bTRC", b"rXYZ", b"gXYZ", b"bXYZ")


def encoding_of_profile(profile: bytes, name: str) -> Encoding | None:
    """What an ICC profile of primaries and curves, or of gray and a curve, says; None for one that says it by tables.

    Parameters
    ----------
    profile : bytes
        The profile.
    name : str
        What it calls itself.

    Returns
    -------
    Encoding | None
        From its numbers to linear sRGB.
    """
    try:
        (count,) = struct.unpack_from(">I", profile, 128)
        tags = {}
        for place in range(min(count, 200)):
            key, offset, size = struct.unpack_from(">4sII", profile, 132 + 12 * place)
            # Elements may lie over each other: only those that are read are copied.
            if key in ELEMENTS:
                tags[key] = profile[offset : offset + size]
        if b"A2B0" in tags or profile[20:24] != b"XYZ ":
            return None
        if b"kTRC" in tags:
            gray = _curve(tags[b"kTRC"])
            return None if gray is None else Encoding(name, np.clip(gray, 0, 1), np.eye(3))
        curves = [_curve(tags[key]) for key in (b"rTRC", b"gTRC", b"bTRC")]
        columns = [np.array(struct.unpack_from(">3i", tags[key], 8)) / 65536 for key in (b"rXYZ", b"gXYZ", b"bXYZ")]
    except (struct.error, KeyError, ValueError):
        return None
    if any(curve is None for curve in curves):
        return None
    to_srgb = XYZ_D65_TO_LINEAR_SRGB @ _adapted(D50, D65) @ np.stack(columns, axis=-1)
    return Encoding(name, np.clip(np.stack([curve for curve in curves if curve is not None], axis=-1), 0, 1), to_srgb)


SIGNATURE = b"\x89PNG\r\n\x1a\n"
COLOR_CHUNKS = (b"cICP", b"sRGB", b"gAMA", b"cHRM", b"iCCP")
MOST_CHUNKS = 1000


def _chunks(data: bytes) -> dict[bytes, bytes]:
    """The color chunks of a PNG that stand before its pixels; of two of a kind the first."""
    found: dict[bytes, bytes] = {}
    at = len(SIGNATURE)
    for _ in range(MOST_CHUNKS):
        if at + 8 > len(data):
            break
        size, key = struct.unpack_from(">I4s", data, at)
        if key in (b"IDAT", b"IEND"):
            break
        if key in COLOR_CHUNKS:
            body = data[at + 8 : at + 8 + size]
            if zlib.crc32(key + body).to_bytes(4) == data[at + 8 + size : at + 12 + size]:
                found.setdefault(key, body)
        at += 12 + size
    return found


def encoding_by_numbers(primaries: int, transfer: int) -> tuple[Encoding | None, str]:
    """The encoding that two numbers of ITU-T H.273 name; None for sRGB's own, and for what is not known. And a note, or "".

    Parameters
    ----------
    primaries : int
        Of table 2.
    transfer : int
        Of table 3.

    Returns
    -------
    tuple[Encoding | None, str]
        How full-range RGB becomes light, and what should be said.
    """
    if transfer in HDR:
        return None, f"It is meant for bright displays ({HDR[transfer]}), which is not converted: its colors look different here."
    if primaries not in PRIMARIES or transfer not in CURVES:
        return None, "It states an encoding of its colors that is not known here; they were taken as sRGB."
    x = _numbers()
    name = CURVES[transfer]
    powers = {"video": 2.4, "2.2": 2.2, "2.8": 2.8, "linear": 1.0}
    curve = decode_srgb_array(x) if name == "srgb" else x ** powers[name]
    return Encoding(f"numbers {primaries}, {transfer} of H.273", curve, _of_primaries(PRIMARIES[primaries])), ""


def encoding_of_png(data: bytes) -> tuple[Encoding | None, str]:
    """What cICP, or gAMA with cHRM where they hold, say of a PNG's numbers; None where they say nothing. And a note, or "".

    Parameters
    ----------
    data : bytes
        The file.

    Returns
    -------
    tuple[Encoding | None, str]
        How its numbers become light, and what should be said.
    """
    if not data.startswith(SIGNATURE):
        return None, ""
    chunks = _chunks(data)
    if len(chunks.get(b"cICP", b"")) == 4:
        primaries, transfer, matrix, is_full = chunks[b"cICP"]
        if transfer in HDR or (matrix == 0 and is_full == 1):
            return encoding_by_numbers(primaries, transfer)
        return None, "It states an encoding of its colors that is not known here; they were taken as sRGB."
    if b"iCCP" in chunks or b"sRGB" in chunks or len(chunks.get(b"gAMA", b"")) != 4:
        return None, ""
    gamma = int.from_bytes(chunks[b"gAMA"]) / 100_000
    places = SRGB_PLACES
    if len(chunks.get(b"cHRM", b"")) == 32:
        places = tuple(value / 100_000 for value in struct.unpack(">8I", chunks[b"cHRM"]))
    if not 0.05 <= gamma <= 20 or any(value <= 0 for value in places[1::2]):
        return None, "What it says of its colors (gAMA, cHRM) makes no sense and was left out."
    # Who writes 1/2.2 means sRGB, whose curve it comes nearest to.
    curve = decode_srgb_array(_numbers()) if abs(gamma - 1 / 2.2) < 0.01 else _numbers() ** (1 / gamma)
    try:
        return Encoding(f"a gamma of {1 / gamma:.2f}", curve, _of_primaries(places)), ""
    except np.linalg.LinAlgError:
        return None, "What it says of its colors (gAMA, cHRM) makes no sense and was left out."


def to_srgb_bytes(numbers: np.ndarray, encoding: Encoding | None) -> Bytes:
    """Colors of a file → 8-bit sRGB, what lies outside clipped.

    Parameters
    ----------
    numbers : np.ndarray
        (…, 3) uint8 or uint16, as they are stored.
    encoding : Encoding | None
        What they mean; None for sRGB.

    Returns
    -------
    Bytes
        (…, 3) uint8 sRGB.
    """
    wide = numbers.astype(np.uint32) * 257 if numbers.dtype == np.uint8 else numbers.astype(np.uint32)
    if encoding is None:
        return np.asarray((wide * 255 + 32_767) // 65_535, dtype=np.uint8)
    linear = encoding.linear
    light = linear[wide] if linear.ndim == 1 else np.stack([linear[wide[..., axis], axis] for axis in range(3)], axis=-1)
    coded = encode_srgb_array(np.clip(light @ encoding.to_srgb.T, 0, 1))
    return np.asarray(np.floor(coded * 255 + 0.5), dtype=np.uint8)
