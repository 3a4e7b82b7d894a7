"""A filled sheet as its form, drawn as it was printed, with the ink of a photograph over it."""

from __future__ import annotations

import io

import numpy as np
import pikepdf
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name

from ..page.encode import jpeg

_QUALITY = 80


def over_print(
    form: bytes, size_pt: tuple[float, float], layer: NDArray[np.uint8], box: tuple[float, float, float, float]
) -> bytes:
    """A PDF of one page. ``form``: the blank page as a PDF (`drawn_page`), ``size_pt`` large; ``layer``: RGB, covers
    ``box`` (left, top, right, bottom in points of the form, from its upper left corner), and darkens what it lies on
    (ISO 32000-2, 11.3.5.2: Multiply). The same input gives the same bytes."""
    left, top, right, bottom = box
    wide, high = right - left, bottom - top
    with pikepdf.new() as pdf, pikepdf.open(io.BytesIO(form)) as source:
        page = pdf.add_blank_page(page_size=(wide, high))
        print_ = pdf.copy_foreign(source.pages[0].as_form_xobject())
        ink = pikepdf.Stream(pdf, jpeg(layer, _QUALITY))
        ink.Type, ink.Subtype = Name.XObject, Name.Image
        ink.Width, ink.Height = layer.shape[1], layer.shape[0]
        ink.ColorSpace, ink.BitsPerComponent, ink.Filter = Name.DeviceRGB, 8, Name.DCTDecode
        page.obj.Resources = Dictionary(
            XObject=Dictionary(Form=print_, Ink=ink),
            ExtGState=Dictionary(Over=Dictionary(Type=Name.ExtGState, BM=Name.Multiply)),
        )
        page.obj.Group = Dictionary(Type=Name.Group, S=Name.Transparency, CS=Name.DeviceRGB, I=True)
        foot = high + top - size_pt[1]  # of the form, from the box's foot
        place = pikepdf.Rectangle(-left, foot, -left + size_pt[0], foot + size_pt[1])
        laid = page.calc_form_xobject_placement(print_, Name.Form, place, allow_expand=True, allow_shrink=True)
        page.obj.Contents = pdf.make_stream(
            laid + f"\nq {wide:.3f} 0 0 {high:.3f} 0 0 cm /Over gs /Ink Do Q\n".encode()
        )
        page.obj.MediaBox = Array([0, 0, round(wide, 3), round(high, 3)])
        out = io.BytesIO()
        pdf.save(out, static_id=True)
        return out.getvalue()
