"""The child process of `typesetting`: reads what is to be set as JSON, writes the sheets as JSON."""

from __future__ import annotations

import io
import json
import re
import resource
import subprocess
import sys
import unicodedata
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

import pikepdf
import pypandoc
import pypdfium2
import typst

_PROCESSOR_SECONDS, _MEMORY_BYTES = 60, 3 * 1024**3
_SCRIPT = Path(__file__).with_name("fragments.lua")
_EMPTY = "_no answer_"
# For scripts that Typst's own fonts lack; of Debian's package fonts-droid-fallback.
_FONTS: list[Any] = [folder for folder in ("/usr/share/fonts/truetype/droid",) if Path(folder).exists()]
_NOT_IN_FONT = re.compile(r'the text `"(.+?)"` could not be displayed')
_MOST_TRIES = 60
_JOINED = ("Mn", "Mc", "Me", "Cf")  # marks and format characters (The Unicode Standard, table 4-4)


def main() -> None:
    resource.setrlimit(resource.RLIMIT_CPU, (_PROCESSOR_SECONDS, _PROCESSOR_SECONDS + 5))
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY_BYTES, _MEMORY_BYTES))
    asked = json.load(sys.stdin)
    answers = asked["answers"]
    set_answers = _set(answers)
    head = _head(asked["paper"], datetime.fromisoformat(asked["made"]))
    bodies = [
        typ if not _trouble(head + typ) else _mended(head, one, plain)
        for one, (typ, plain) in zip(answers, set_answers, strict=True)
    ]
    source = (head + "\n".join(bodies)).encode()
    pdf = typst.compile(source, format="pdf", pdf_standards=["a-3b"], font_paths=_FONTS, ignore_system_fonts=True)
    spots = {
        one["question"]: [one["sheet"] - 1, min(1.0, max(0.0, float(one["top"]) / asked["paper"][1]))]
        for one in json.loads(typst.query(source, "<spot>", field="value", font_paths=_FONTS, ignore_system_fonts=True))
    }
    sheets, words = [], []
    said = pypdfium2.PdfDocument(pdf)
    with pikepdf.open(io.BytesIO(pdf)) as document:
        for number, page in enumerate(document.pages):
            with pikepdf.new() as single:
                single.pages.append(page)
                out = io.BytesIO()
                single.save(out, static_id=True)
            sheets.append(out.getvalue().hex())
            here = [one["label"] for one in answers if spots.get(one["id"], [-1])[0] == number]
            text = " ".join(said[number].get_textpage().get_text_bounded().split())
            which = f"typed answers to {', '.join(here)}" if here else "typed answers, continued"
            words.append(f"{which}: {text}")
    json.dump({"sheets": sheets, "spots": spots, "words": words}, sys.stdout)


def _set(answers: list[dict[str, Any]]) -> list[tuple[str, str]]:
    fragments = iter(_fragments([text for one in answers for text in _texts(one)]))
    return [_answer(one, fragments) for one in answers]


def _fragments(texts: list[str]) -> list[str]:
    """Each text as Typst sets it."""
    command = [pypandoc.get_pandoc_path(), "lua", str(_SCRIPT)]
    done = subprocess.run(command, input=json.dumps(texts).encode(), capture_output=True, check=True)
    read: list[str] = json.loads(done.stdout)
    return read


def _texts(one: dict[str, Any]) -> Iterator[str]:
    yield one["title"]
    yield one["text"]
    yield from (choice["text"] for choice in one["choices"])
    yield one["content"]["written"]


def _answer(one: dict[str, Any], fragments: Iterator[str]) -> tuple[str, str]:
    """The answer with its maths, and the same with all words as they were typed, for what cannot be set."""
    read = [next(fragments).strip() for _ in _texts(one)]
    raw = [_as_typed(text) for text in _texts(one)]
    return _laid_out(one, read), _laid_out(one, raw)


def _laid_out(one: dict[str, Any], parts: list[str]) -> str:
    title, text, *choices, written = parts
    content, chosen = one["content"], set(one["content"]["chosen"])
    lines = [f"#spot({_string(one['id'])})", f"#question({_string(one['label'])})[{title}]"]
    if text:
        lines.append(f"#asked[{text}]")
    for choice, words in zip(one["choices"], choices, strict=True):
        lines.append(f"#choice({'true' if choice['id'] in chosen else 'false'})[{words}]")
    if one["choices"] and not chosen:
        lines.append(f"#answer[{_EMPTY}]")
    if one["asks_short"]:
        short = _string(content["short"].strip()) if content["short"].strip() else ""
        unit = f" #text({_string(one['unit'])})" if one["unit"] and short else ""
        lines.append(f"#answer[#strong(text({short})){unit}]" if short else f"#answer[{_EMPTY}]")
    if one["asks_written"]:
        lines.append(f"#answer[\n{written or _EMPTY}\n]")
    return "\n".join(lines) + "\n"


def _as_typed(text: str) -> str:
    return "".join(f"#raw({_string(line)}) #linebreak()\n" for line in text.splitlines()) if text else ""


def _string(text: str) -> str:
    """As a string of Typst: nothing in it is read as markup."""
    escaped = text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\n").replace("\t", "\\t")
    return f'"{escaped}"'


def _trouble(source: str) -> str:
    """Why it cannot be set; "" where it can."""
    try:
        typst.compile(
            source.encode(), format="pdf", pdf_standards=["a-3b"], font_paths=_FONTS, ignore_system_fonts=True
        )
    except (typst.TypstError, RuntimeError) as error:
        return str(error) or type(error).__name__
    return ""


def _mended(head: str, answer: dict[str, Any], plain: str) -> str:
    """An answer that cannot be set as it is: with the numbers of characters that no font has; else as it was typed; at
    the very last with nothing but ASCII in it, which can be set always."""
    spelled = _spelled_out(answer, _signs_without_picture(head, plain))
    only_ascii = _spelled_out(answer, {sign for sign in plain if not sign.isascii()})
    ways = [*_set([spelled])[0], *_set([only_ascii])[0]]
    return next((way for way in ways if not _trouble(head + way)), ways[-1])


def _signs_without_picture(head: str, plain: str) -> set[str]:
    """Characters that no font here has; each try tells of some. What is told may be what a mark or a joiner stands
    behind: then it is these."""
    signs: set[str] = set()
    for _ in range(_MOST_TRIES):
        found = _NOT_IN_FONT.search(_trouble(head + _without(plain, signs)))
        if found is None:
            break
        told = set(re.sub(r"\\u\{([0-9a-f]+)\}", lambda code: chr(int(code[1], 16)), found[1]))
        new = {sign for sign in told if not sign.isascii()} - signs
        new = new or {sign for sign in plain if unicodedata.category(sign) in _JOINED} - signs
        if not new:
            break
        signs |= new
    return signs


def _without(text: str, signs: set[str]) -> str:
    return "".join(f"(U+{ord(sign):04X})" if sign in signs else sign for sign in text)


def _spelled_out(answer: dict[str, Any], signs: set[str]) -> dict[str, Any]:
    """With the numbers of such characters in their place: what cannot be shown is said."""

    def spelled(value: Any) -> Any:
        if isinstance(value, str):
            return _without(value, signs)
        return [spelled(one) for one in value] if isinstance(value, list) else value

    content = {name: value if name == "chosen" else spelled(value) for name, value in answer["content"].items()}
    choices = [{**choice, "text": spelled(choice["text"])} for choice in answer["choices"]]
    shown = {name: spelled(answer[name]) for name in ("title", "text", "unit")}
    return {**answer, **shown, "choices": choices, "content": content}


def _head(paper: list[float], made: datetime) -> str:
    date = f"datetime(year: {made.year}, month: {made.month}, day: {made.day})"
    return f"""
#set document(title: "Answers", date: {date})
#set page(width: {paper[0]:.3f}pt, height: {paper[1]:.3f}pt, margin: (x: 56pt, top: 52pt, bottom: 44pt))
#set text(font: ("Libertinus Serif", "New Computer Modern Math"), size: 11.5pt, lang: "en")
#set par(leading: 0.72em, spacing: 1.05em)
#set table(stroke: 0.5pt)
#show math.equation.where(block: true): set align(left)
#let spot(id) = context [#metadata((question: id, sheet: here().page(), top: here().position().y.pt())) <spot>]
#let question(label, title) = block(above: 26pt, below: 10pt, sticky: true, width: 100%,
  stroke: (top: 0.5pt + luma(160)), inset: (top: 8pt))[#text(size: 14pt, weight: "bold", label) #h(10pt) #title]
#let asked(body) = block(below: 12pt, inset: (left: 18pt))[#text(size: 10pt, fill: luma(70), body)]
#let answer(body) = block(below: 10pt, inset: (left: 18pt), body)
#let choice(chosen, body) = block(inset: (left: 18pt), below: 8pt, grid(columns: (20pt, 1fr, auto), align: top,
  box(width: 10pt, height: 10pt, stroke: 0.7pt, radius: 1pt, if chosen {{ align(center + horizon)[×] }}),
  if chosen {{ strong(body) }} else {{ body }}, if chosen {{ text(size: 9pt)[#h(8pt) chosen] }}))
"""


if __name__ == "__main__":
    main()
