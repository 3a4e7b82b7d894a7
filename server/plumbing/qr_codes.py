"""QR codes (ISO/IEC 18004) as the browser draws them."""

from __future__ import annotations

import segno


def qr_modules(text: str) -> list[str]:
    """Row by row, a 1 for each dark module. The quiet zone around them is the drawer's."""
    code = segno.make_qr(text, error="m")
    return ["".join("1" if dark else "0" for dark in row) for row in code.matrix_iter(border=0)]
