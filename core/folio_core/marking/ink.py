"""Ink of a marker: strokes and signs in the coordinates of a page's original, and their export as InkML.

InkML: Ink Markup Language, W3C Recommendation 20 September 2011.
"""

from __future__ import annotations

import xml.etree.ElementTree as ET
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

NAMESPACE = "http://www.w3.org/2003/InkML"
STROKE_POINTS_MOST, TEXT_MOST = 5000, 500


class BadInk(ValueError):
    """A stroke that is none. The message says why."""


class Tool(StrEnum):
    PEN = "pen"
    HIGHLIGHTER = "highlighter"
    UNDERLINE = "underline"
    TICK = "tick"
    CROSS = "cross"
    TEXT = "text"

    @property
    def is_sign(self) -> bool:
        """Set at one spot, not drawn."""
        return self in (Tool.TICK, Tool.CROSS, Tool.TEXT)


@dataclass(frozen=True, slots=True)
class Stroke:
    """``points``: x, y and pressure 0–1; x and y in whatever the page is measured in. ``width``: of a pen in the same;
    of a sign the size. ``text``: what stands at the spot."""

    tool: Tool
    points: tuple[tuple[float, float, float], ...]
    width: float
    text: str = ""

    def __post_init__(self) -> None:
        if not 1 <= len(self.points) <= STROKE_POINTS_MOST:
            raise BadInk(f"A stroke has between 1 and {STROKE_POINTS_MOST} points.")
        if self.tool.is_sign and len(self.points) != 1:
            raise BadInk("A sign stands at one spot.")
        if any(not 0 <= pressure <= 1 for _, _, pressure in self.points):
            raise BadInk("Pressure lies between 0 and 1.")
        if not self.width > 0:
            raise BadInk("A stroke is wider than nothing.")
        if (self.tool is Tool.TEXT) != bool(self.text.strip()) or len(self.text) > TEXT_MOST:
            raise BadInk(f"Write between 1 and {TEXT_MOST} characters at the spot.")


def traces(stroke: Stroke) -> list[list[tuple[float, float, float]]]:
    """The lines that draw it: of a pen its own, of a tick or cross those of its shape; of text none."""
    if stroke.tool is Tool.TEXT:
        return []
    if not stroke.tool.is_sign:
        return [list(stroke.points)]
    ((x, y, pressure),) = stroke.points
    size = stroke.width
    if stroke.tool is Tool.TICK:
        shape = [[(-0.5, 0.0), (-0.15, 0.4), (0.5, -0.5)]]
    else:
        shape = [[(-0.4, -0.4), (0.4, 0.4)], [(0.4, -0.4), (-0.4, 0.4)]]
    return [[(x + dx * size, y + dy * size, pressure) for dx, dy in line] for line in shape]


def pen_width(stroke: Stroke) -> float:
    """Of its lines, in what the page is measured in."""
    return stroke.width / 8 if stroke.tool.is_sign else stroke.width


def inkml(pages: Sequence[tuple[str, float, float, Iterable[tuple[Stroke, str]]]]) -> bytes:
    """The ink of some pages: of each a name, its width and height in pixels, and its strokes with who drew them.

    Each page is a context with its own ink source of that area; each stroke a trace of X, Y (pixels, origin top left)
    and F (pressure); each kind of pen a brush. Traces name both themselves: readers do not look for it at their group.
    What stands at a spot is an annotation of its trace of one point.
    """
    ET.register_namespace("", NAMESPACE)
    ink = ET.Element(_name("ink"))
    definitions = ET.SubElement(ink, _name("definitions"))
    brushes: dict[tuple[Tool, float], str] = {}
    groups: list[ET.Element] = []
    for number, (name, width, height, strokes) in enumerate(pages, 1):
        _page_context(definitions, number, width, height)
        group = ET.Element(_name("traceGroup"))
        ET.SubElement(group, _name("annotation"), {"type": "page"}).text = name
        for stroke, by in strokes:
            key = (stroke.tool, round(pen_width(stroke), 2))
            if key not in brushes:
                brushes[key] = f"brush{len(brushes) + 1}"
                _brush(definitions, brushes[key], *key)
            refers = {"contextRef": f"#page{number}", "brushRef": f"#{brushes[key]}"}
            one = ET.SubElement(group, _name("traceGroup"))
            ET.SubElement(one, _name("annotation"), {"type": "tool"}).text = stroke.tool.value
            ET.SubElement(one, _name("annotation"), {"type": "writer"}).text = by
            if stroke.text:
                ET.SubElement(one, _name("annotation"), {"type": "text"}).text = _xml_safe(stroke.text)
            for line in traces(stroke) or [list(stroke.points)]:
                ET.SubElement(one, _name("trace"), refers).text = ", ".join(
                    f"{x:.2f} {y:.2f} {pressure:.3f}" for x, y, pressure in line
                )
        groups.append(group)
    ink.extend(groups)
    return bytes(ET.tostring(ink, encoding="utf-8", xml_declaration=True))


def _page_context(definitions: ET.Element, number: int, width: float, height: float) -> None:
    source = ET.SubElement(definitions, _name("inkSource"), {_ID: f"source{number}"})
    layout = ET.SubElement(source, _name("traceFormat"))
    for channel, most in (("X", width), ("Y", height), ("F", 1.0)):
        units = {} if channel == "F" else {"units": "dev"}
        ET.SubElement(
            layout, _name("channel"), {"name": channel, "type": "decimal", "min": "0", "max": f"{most:g}", **units}
        )
    context = ET.SubElement(definitions, _name("context"), {_ID: f"page{number}"})
    context.set("inkSourceRef", f"#source{number}")


def _brush(definitions: ET.Element, name: str, tool: Tool, width: float) -> None:
    brush = ET.SubElement(definitions, _name("brush"), {_ID: name})
    colour = "#E2B65F" if tool is Tool.HIGHLIGHTER else "#B8321F"
    transparency = "128" if tool is Tool.HIGHLIGHTER else "0"
    for property_name, value in (("color", colour), ("transparency", transparency), ("width", f"{width:g}")):
        ET.SubElement(brush, _name("brushProperty"), {"name": property_name, "value": value})


_ID = "{http://www.w3.org/XML/1998/namespace}id"


def _name(tag: str) -> str:
    return f"{{{NAMESPACE}}}{tag}"


def _xml_safe(text: str) -> str:
    """Without the control characters that XML 1.0 has no way to write."""
    return "".join(sign for sign in text if sign in "\t\n\r" or sign >= " ")
