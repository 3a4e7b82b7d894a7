"""Opening one source: bytes → how many pages it holds, and the pixels of one of them.

These functions decode untrusted bytes: call them through `sandbox`.
"""

from __future__ import annotations

import io
import os
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager

import cv2
import numpy as np
import simplejpeg
from numpy.typing import NDArray
from PIL import ExifTags, Image, ImageCms, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

from .errors import PageError, Trouble
from .kinds import HEAD_BYTES, Kind, kind_of
from .limits import OUTPUT_LONG_SIDE_PX, Limits
from .opened import Opened, check_pixels, damaged_file
from .pdf import open_pdf, open_pdf_page

register_heif_opener()
# The header's pixel count is checked against our own limit, so Pillow's warning is not needed.
warnings.simplefilter("ignore", Image.DecompressionBombWarning)
Image.MAX_IMAGE_PIXELS = None

_EXIF_TAKEN = (ExifTags.Base.DateTimeOriginal, ExifTags.Base.DateTime)
# EXIF 2.32, tag 0x0112: from the stored rows and columns to the upright picture.
_EXIF_TURNS: dict[int, Callable[[cv2.typing.MatLike], cv2.typing.MatLike]] = {
    2: lambda stored: cv2.flip(stored, 1),
    3: lambda stored: cv2.rotate(stored, cv2.ROTATE_180),
    4: lambda stored: cv2.flip(stored, 0),
    5: cv2.transpose,
    6: lambda stored: cv2.rotate(stored, cv2.ROTATE_90_CLOCKWISE),
    7: lambda stored: cv2.rotate(cv2.transpose(stored), cv2.ROTATE_180),
    8: lambda stored: cv2.rotate(stored, cv2.ROTATE_90_COUNTERCLOCKWISE),
}
_FIRST_SIDEWAYS = 5  # EXIF orientations from here on exchange width and height
_HALVED_FROM_PX = 3 * OUTPUT_LONG_SIDE_PX  # half of it still holds more than a prepared page needs
_DECODERS = {
    Kind.JPEG: ("JPEG",), Kind.PNG: ("PNG",), Kind.WEBP: ("WEBP",), Kind.TIFF: ("TIFF",), Kind.BMP: ("BMP",),
    Kind.GIF: ("GIF",), Kind.HEIC: ("HEIF", "AVIF"), Kind.AVIF: ("AVIF", "HEIF"),
}  # fmt: skip
# libjpeg's warnings (jerror.h): all that begin so tell of pixels lost, but for stray bytes that some cameras write.
_JPEG_DAMAGE, _HARMLESS, _MOST_SAID = ("Corrupt JPEG data", "Premature end"), "extraneous bytes", 4096


def count_pages(data: bytes, limits: Limits) -> int:
    """How many pages a file holds. Raises PageError."""
    match _checked_kind(data, limits):
        case Kind.PDF:
            with open_pdf(data) as document:
                pages = len(document)
        case Kind.TIFF:
            with _image(data, Kind.TIFF) as image:
                pages = getattr(image, "n_frames", 1)
        case kind:  # of an animation or a burst, the first picture
            with _image(data, kind) as image:
                check_pixels(*image.size, limits)
            pages = 1
    if pages > limits.pages:
        raise PageError(
            Trouble.TOO_MANY_PAGES,
            f"This file has {pages} pages; at most {limits.pages} are taken. Send only the pages of your answers.",
        )
    if pages == 0:
        raise PageError(Trouble.TRUNCATED, "This PDF has no pages. Export it again and add the new file.")
    return pages


def open_page(data: bytes, index: int, limits: Limits, *, reduced: bool = False) -> Opened:
    """Decode page ``index`` (from 0) of a file. Raises PageError.

    ``reduced``: a very large JPEG may come at half its scale, which takes a third of the time.
    """
    kind = _checked_kind(data, limits)
    if kind is Kind.PDF:
        return open_pdf_page(data, index, limits)
    with _image(data, kind) as image:
        try:
            image.seek(index)
            check_pixels(*image.size, limits)
            halved = reduced and max(image.size) >= _HALVED_FROM_PX
            damage: list[str] = []
            pixels = _plain_jpeg(data, image, halved, damage)
            if pixels is None:
                halved = False
                pixels = np.asarray(_to_srgb(ImageOps.exif_transpose(image)))
            sideways = image.getexif().get(ExifTags.Base.Orientation, 1) >= _FIRST_SIDEWAYS
            height, width = pixels.shape[:2]
            if halved:
                width, height = image.size[::-1] if sideways else image.size
            return Opened(pixels, width, height, drawn=False, taken=_taken(image), damaged=bool(damage))
        except (OSError, SyntaxError, ValueError, EOFError) as error:
            raise damaged_file() from error


def _checked_kind(data: bytes, limits: Limits) -> Kind:
    if len(data) > limits.file_bytes:
        raise PageError(Trouble.TOO_LARGE, too_large_message(len(data), limits.file_bytes))
    return kind_of(data[:HEAD_BYTES])


def too_large_message(size: int, most: int) -> str:
    return (
        f"This file has {size / 1e6:.1f} MB; at most {most / 1e6:.1f} MB are taken. "
        "Take the picture at a normal size, or split the PDF."
    )


def _image(data: bytes, kind: Kind) -> Image.Image:
    """Only the decoder of the kind that was seen is tried; for the ISO boxes HEIC and AVIF share, both are."""
    try:
        return Image.open(io.BytesIO(data), formats=_DECODERS[kind])
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        if kind is Kind.TIFF:
            return _deep_tiff(data, error)
        raise damaged_file() from error


def _deep_tiff(data: bytes, error: Exception) -> Image.Image:
    """Sixteen bits a colour, which Pillow does not read."""
    pixels = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR_RGB)
    if pixels is None:
        raise damaged_file() from error
    return Image.fromarray(np.asarray(pixels, np.uint8))


def _plain_jpeg(data: bytes, image: Image.Image, halved: bool, damage: list[str]) -> NDArray[np.uint8] | None:
    """A whole RGB JPEG in sRGB, by libjpeg-turbo itself or by OpenCV: half of Pillow's time. None for all others.
    ``damage`` is added to.

    OpenCV paints the missing rest of a cut-off file grey without a word, so only a file that ends as a JPEG
    must (EOI marker, ITU-T T.81 B.1.1.3) comes this way.
    """
    whole = data.rstrip(b"\0").endswith(b"\xff\xd9")
    if image.format != "JPEG" or image.mode != "RGB" or not whole or not _is_srgb(image.info.get("icc_profile")):
        return None
    decoded = None if halved else _strictly_decoded(data)
    if decoded is None:
        decoded = _leniently_decoded(data, halved, damage)
    turn = _EXIF_TURNS.get(image.getexif().get(ExifTags.Base.Orientation, 1))
    return np.asarray(turn(decoded) if turn else decoded, np.uint8)


def _strictly_decoded(data: bytes) -> NDArray[np.uint8] | None:
    """The same pixels as OpenCV's in five sixths of its time; None where anything is wrong with the file."""
    try:
        return np.asarray(simplejpeg.decode_jpeg(data, "RGB", strict=True), np.uint8)
    except ValueError:
        return None


def _leniently_decoded(data: bytes, halved: bool, damage: list[str]) -> NDArray[np.uint8]:
    """What can be read of it, and what is said of the rest. Raises PageError where that is nothing."""
    colour = cv2.IMREAD_REDUCED_COLOR_2 if halved else cv2.IMREAD_COLOR_RGB
    with _listening() as said:
        decoded = cv2.imdecode(np.frombuffer(data, np.uint8), colour | cv2.IMREAD_IGNORE_ORIENTATION)
    if decoded is None:
        raise damaged_file()
    damage += [words for words in said if words.startswith(_JPEG_DAMAGE) and _HARMLESS not in words]
    if halved:  # this way comes in OpenCV's own order of colours
        decoded = cv2.cvtColor(decoded, cv2.COLOR_BGR2RGB)
    return np.asarray(decoded, np.uint8)


@contextmanager
def _listening() -> Iterator[list[str]]:
    """Lines that C code writes to standard error meanwhile; libjpeg tells of damage only there."""
    said: list[str] = []
    heard, telling = os.pipe()  # the sandbox lets nothing be written to a file
    os.set_blocking(telling, False)
    kept = os.dup(2)
    os.dup2(telling, 2)
    try:
        yield said
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(telling)
        said += os.read(heard, _MOST_SAID).decode(errors="replace").splitlines()
        os.close(heard)


def _is_srgb(profile: bytes | None) -> bool:
    return not profile or b"sRGB" in profile or "sRGB".encode("utf-16-be") in profile


def _taken(image: Image.Image) -> str:
    exif = image.getexif()
    details = exif.get_ifd(ExifTags.IFD.Exif)
    said = next((str(where[tag]) for where in (details, exif) for tag in _EXIF_TAKEN if tag in where), "")
    return said and f"{said}{details.get(ExifTags.Base.OffsetTimeOriginal, '')}"


def _to_srgb(image: Image.Image) -> Image.Image:
    """Any mode to RGB: alpha is laid on white, an embedded profile is turned into sRGB."""
    profile = image.info.get("icc_profile")
    if image.mode.startswith("I;16"):
        image = Image.fromarray((np.asarray(image) >> 8).astype(np.uint8))
    if image.mode == "P" and "transparency" in image.info:
        image = image.convert("RGBA")
    if image.mode in ("RGBA", "LA", "PA"):
        with_alpha = image.convert("RGBA")
        image = Image.new("RGB", image.size, "white")
        image.paste(with_alpha, mask=with_alpha.getchannel("A"))
    if profile and image.mode in ("RGB", "CMYK", "L") and not _is_srgb(profile):
        try:
            source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
            turned = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
            return turned if turned is not None else image.convert("RGB")
        except ImageCms.PyCMSError:
            pass  # a broken profile is no reason to lose the picture
    return image.convert("RGB")
