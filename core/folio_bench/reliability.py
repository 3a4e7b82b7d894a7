"""How often what was said with so much confidence is right: the bins of a reliability diagram, and its picture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

_EDGES = (0.5, 0.6, 0.7, 0.8, 0.9, 0.95, 0.99, 1.01)
_LEAST = 0.4  # where both axes begin
_SIDE, _RIM, _FOOT = 420, 56, 60  # px, the plot and what is beside it
_Z = 1.96  # 95 %


@dataclass(frozen=True, slots=True)
class Bin:
    """What was said with ``low`` to ``high``, on average ``said``. ``likely``: in which 95 % of such samples' true
    share lies."""

    low: float
    high: float
    said: float
    count: int
    right: float
    likely: tuple[float, float]


def bins(confidences: Sequence[tuple[float, bool]]) -> list[Bin]:
    """``confidences``: of each thing said, how surely, and whether it was right. Empty bins are left out."""
    found = []
    for low, high in pairwise(_EDGES):
        inside = [(said, right) for said, right in confidences if low <= said < high]
        if inside:
            count, right = len(inside), sum(right for _, right in inside)
            mean = sum(said for said, _ in inside) / count
            found.append(Bin(low, min(high, 1.0), mean, count, right / count, wilson(right, count)))
    return found


def wilson(right: int, count: int) -> tuple[float, float]:
    """The score interval of a share, 95 % (E. B. Wilson, J. Am. Stat. Assoc. 22, 1927)."""
    share, square = right / count, _Z * _Z / count
    middle = share + square / 2
    reach = _Z * (share * (1 - share) / count + square / (4 * count)) ** 0.5
    return (middle - reach) / (1 + square), (middle + reach) / (1 + square)


def picture(found: Sequence[Bin]) -> str:
    """An SVG: share right over what was said, the diagonal where both agree, how many links each point stands for."""

    def at(said: float, right: float) -> tuple[float, float]:
        across, up = ((max(share, _LEAST) - _LEAST) / (1 - _LEAST) for share in (said, right))
        return round(_RIM + _SIDE * across, 1), round(_RIM + _SIDE * (1 - up), 1)

    foot = _RIM + _SIDE
    parts = []
    for tenth in range(round(10 * _LEAST), 11):
        x, y = at(tenth / 10, tenth / 10)
        parts.append(
            f'<path d="M{x} {foot}V{_RIM}M{_RIM} {y}H{_RIM + _SIDE}" stroke="#e3e3e3"/>'
            f'<text x="{x}" y="{foot + 18}" text-anchor="middle">{tenth / 10:.1f}</text>'
            f'<text x="{_RIM - 8}" y="{y + 4}" text-anchor="end">{tenth / 10:.1f}</text>'
        )
    (left, low), (right, high) = at(_LEAST, _LEAST), at(1, 1)
    parts.append(f'<path d="M{left} {low}L{right} {high}" stroke="#777" stroke-dasharray="5 4"/>')
    for one in found:
        x, y = at(one.said, one.right)
        bottom, top = (at(one.said, share)[1] for share in one.likely)
        parts.append(
            f'<path d="M{x} {bottom}V{top}" stroke="#1f4e79" stroke-width="2"/>'
            f'<circle cx="{x}" cy="{y}" r="4.5" fill="#1f4e79"/>'
            f'<text transform="translate({x + 4} {top - 8}) rotate(-70)" fill="#1f4e79">{one.count}</text>'
        )
    middle = _RIM + _SIDE / 2
    parts.append(
        f'<text x="{_RIM + _SIDE / 2}" y="{foot + 44}" text-anchor="middle">said with this confidence</text>'
        f'<text transform="translate(16 {middle}) rotate(-90)" text-anchor="middle">share right</text>'
    )
    width, height = _SIDE + _RIM + 24, round(foot + _FOOT)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {height}" width="{width}" height="{height}"'
        f' font-family="sans-serif" font-size="13" fill="#333"><title>Reliability of what is proposed</title>'
        f'<rect width="100%" height="100%" fill="#fff"/>{"".join(parts)}</svg>\n'
    )
