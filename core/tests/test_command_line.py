from __future__ import annotations

import contextlib
import io
import json
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any

import pypdf

from folio_camera.form_trials import photographed
from folio_camera.handwriting import Style, write_sheet
from folio_camera.photograph import photograph
from folio_camera.printed_forms import make_form
from folio_camera.scene import Scene
from folio_camera.solutions import great_circles
from folio_core.__main__ import main
from folio_core.binding import Paper, receipt_pdf

from bound_samples import ISSUER, with_receipt  # isort: skip
from camera_shots import SMALL, shot  # isort: skip


class CommandLine(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "a.jpg").write_bytes(shot(Scene(size=SMALL)).jpeg)
        (self.folder / "b.jpg").write_bytes(shot(Scene(size=SMALL, desk="dark")).jpeg)
        (self.folder / "bad.jpg").write_bytes(b"hello")

    def run_core(self, *arguments: str) -> tuple[int, list[dict[str, Any]]]:
        out = io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(io.StringIO()):
            status = main([argument.replace("@", f"{self.folder}/") for argument in arguments])
        return status, [json.loads(line) for line in out.getvalue().splitlines()]

    def test_prepare_says_everything_of_each_page_and_writes_it(self) -> None:
        status, lines = self.run_core("prepare", "@a.jpg", "--out", "@out")
        self.assertEqual(status, 0)
        (line,) = lines
        self.assertEqual((line["index"], line["width"], line["height"], line["turn"]), (0, *SMALL, 0))
        self.assertTrue(line["sheet_found"])
        self.assertEqual(len(line["corners"]), 4)
        self.assertEqual(set(line["measures"]) & {"blur_sigma_px", "ink_contrast"}, {"blur_sigma_px", "ink_contrast"})
        self.assertTrue(Path(line["out"]).read_bytes().startswith(b"\xff\xd8"))

    def test_a_bad_file_is_one_line_and_the_others_still_come_out(self) -> None:
        status, lines = self.run_core("prepare", "@bad.jpg", "@missing.jpg", "@a.jpg")
        self.assertEqual(status, 1)
        self.assertEqual([line.get("error", {}).get("code") for line in lines], ["wrong_kind", "unreadable", None])

    def test_suggest_gives_order_places_and_what_is_missing_and_read_the_labels(self) -> None:
        solution = {one.label: one for one in great_circles()}
        for number, labels in enumerate((("2a", "2b"), ("1a", "1b"))):  # the second page first
            sheet = write_sheet([replace(solution[label], figure="") for label in labels], Style(), 11 + number)
            data = photograph(sheet, Scene(size=(1512, 2016)), 21 + number).jpeg
            (self.folder / f"page{number}.jpg").write_bytes(data)
        status, lines = self.run_core("suggest", "--map", "1a-c, 2a-b", "@page0.jpg", "@page1.jpg", "@bad.jpg")
        (told,) = lines
        self.assertEqual((status, told["errors"][0]["code"]), (1, "wrong_kind"))
        status, lines = self.run_core("suggest", "--map", "1a-c, 2a-b", "@page0.jpg", "@page1.jpg")
        (told,) = lines
        self.assertEqual((status, told["order"], told["missing"], told["loose"]), (0, [1, 0], ["1c"], []))
        self.assertEqual(told["placements"], {"1a": [1], "1b": [1], "2a": [0], "2b": [0]})
        self.assertEqual(
            {label: page for label, (page, _) in told["tops"].items()}, {"1a": 1, "1b": 1, "2a": 0, "2b": 0}
        )
        self.assertEqual(set(told["confidence"]), {"order", "placements", "missing"})
        status, lines = self.run_core("read", "@page1.jpg", "@bad.jpg")
        self.assertEqual([one["text"] for one in lines[0]["labels"]], ["1a", "1b"])
        self.assertEqual((status, lines[1]["error"]["code"]), (1, "wrong_kind"))
        self.assertEqual(self.run_core("suggest", "--map", "1, 1a", "@page0.jpg"), (2, []))

    def test_register_says_which_page_of_a_form_it_is_where_and_what_is_empty(self) -> None:
        form = make_form("boxes", 11, pages=4)
        spaces = {label: [list(box) for box in boxes] for label, boxes in form.spaces.items()}
        (self.folder / "form.pdf").write_bytes(form.pdf)
        (self.folder / "spaces.json").write_text(json.dumps(spaces))
        (self.folder / "filled.jpg").write_bytes(photographed(form, 1, ["4"], 5, (1512, 2016)))
        arguments = ("register", "--form", "@form.pdf", "--spaces", "@spaces.json", "@filled.jpg", "@a.jpg", "@bad.jpg")
        status, (filled, scrap, bad) = self.run_core(*arguments)
        self.assertEqual(status, 1)
        self.assertEqual((filled["index"], filled["page"], filled["copy"], filled["empty"]), (0, 1, None, ["5"]))
        self.assertGreater(filled["confidence"], 0.9)
        self.assertEqual([len(row) for row in filled["homography"]], [3, 3, 3])
        self.assertEqual((scrap["page"], scrap["homography"], scrap["empty"]), (None, None, []))
        self.assertEqual(bad["error"]["code"], "wrong_kind")
        self.assertEqual(self.run_core("register", "--form", "@bad.jpg", "@filled.jpg")[0], 2)
        (self.folder / "spaces.json").write_text("[]")
        self.assertEqual(self.run_core(*arguments)[0], 2)

    def test_bind_makes_one_document_from_an_arrangement(self) -> None:
        plan = {"map": "1a-b, 2", "pages": ["a.jpg", "b.jpg"], "placements": {"1a": [0], "1b": [[1, 0.5]]},
                "left_blank": ["2"], "title": "Tides"}  # fmt: skip
        (self.folder / "plan.json").write_text(json.dumps(plan))
        status, lines = self.run_core("bind", "--arrangement", "@plan.json", "-o", "@out.pdf")
        self.assertEqual((status, lines[0]["pages"], lines[0]["outline"]), (0, 2, 3))
        self.assertEqual(pypdf.PdfReader(self.folder / "out.pdf").metadata.title, "Tides")

    def test_verify_takes_the_bound_pdf_the_receipt_and_the_receipt_in_print(self) -> None:
        bound, receipt = with_receipt()
        in_print = receipt_pdf(receipt, Paper.A4, "America/Halifax", "https://folio.example/check-receipt")
        keys = {"keys": [{"public_key": ISSUER.public_key}]}
        for name, content in (("bound.pdf", bound), ("print.pdf", in_print), ("receipt.json", receipt.as_bytes()),
                              ("changed.pdf", bound[:-9] + b"x" + bound[-8:]),
                              ("keys.json", json.dumps(keys).encode())):  # fmt: skip
            (self.folder / name).write_bytes(content)
        for arguments, holds, looked_at in (
            (("@bound.pdf",), True, True), (("--receipt", "@receipt.json", "@bound.pdf"), True, True),
            (("--receipt", "@print.pdf"), True, False), (("--receipt", "@print.pdf", "@bound.pdf"), True, True),
            (("@changed.pdf",), False, None), (("@print.pdf",), False, None),
            (("--receipt", "@receipt.json", "@print.pdf"), False, None),
        ):  # fmt: skip
            with self.subTest(arguments):
                status, (told,) = self.run_core("verify", *arguments, "--keys", "@keys.json")
                self.assertEqual(
                    (status, told["holds"], told.get("pdf_checked")), (0 if holds else 1, holds, looked_at)
                )
        self.assertIn("receipt in print", self.run_core("verify", "@print.pdf")[1][0]["message"])
        self.assertEqual(self.run_core("verify", "@bound.pdf")[1][0]["holds"], None)

    def test_wrong_usage_is_status_two_with_a_word(self) -> None:
        (self.folder / "plan.json").write_text('{"map": "1a", "pages": [], "placements": {"9": [0]}}')
        self.assertEqual(self.run_core("bind", "--arrangement", "@plan.json", "-o", "@out.pdf")[0], 2)
        self.assertEqual(self.run_core("bind", "--arrangement", "@none.json", "-o", "@out.pdf")[0], 2)

    def test_a_document_with_a_page_missing_is_not_made(self) -> None:
        (self.folder / "plan.json").write_text('{"map": "1", "pages": ["a.jpg", "bad.jpg"]}')
        self.assertEqual(self.run_core("bind", "--arrangement", "@plan.json", "-o", "@out.pdf")[0], 1)
        self.assertFalse((self.folder / "out.pdf").exists())
