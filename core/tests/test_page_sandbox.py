"""The sandbox of the decoders: what a taken-over decoder gets, and what its end costs."""

from __future__ import annotations

import io
import os
import socket
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from PIL import Image

from folio_core.page import (
    DEFAULT_LIMITS,
    FirstView,
    Limits,
    PageError,
    Trouble,
    count_pages,
    prepare,
    run_limited,
    sandbox,
)
from folio_core.page.sandbox import Isolation, frames, isolation, probes

SPARE_BYTES = 150_000_000  # a child that is forked for its page begins with less


def picture() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (300, 400), "white").save(out, "JPEG")
    return out.getvalue()


class WhatADecoderGets(unittest.TestCase):
    """Each probe is first shown to find something here, outside, so that finding nothing inside says something."""

    def test_no_setting_of_the_application(self) -> None:
        with mock.patch.dict(os.environ, FOLIO_SECRET_KEY="a secret"):
            self.assertIn("FOLIO_SECRET_KEY", probes.read_environment())
            self.addCleanup(sandbox._the_server().end)
            sandbox._the_server().end()  # the next is started with this environment
            sandbox._server = None
            self.assertEqual(run_limited(probes.read_environment), "")

    def test_no_more_where_the_child_was_there_before_its_page(self) -> None:
        """A spare child is made in a quiet moment; it is known by the memory it has in hand."""
        deadline = time.monotonic() + 60
        while (found := run_limited(probes.what_a_child_gets))[0] < SPARE_BYTES:
            self.assertLess(time.monotonic(), deadline, "no spare child was made")
            time.sleep(0.3)
        self.assertEqual(found[1], "")
        self.assertNotEqual(run_limited(probes.what_a_child_gets)[2], found[2])  # it took one page and no other
        self.assertNotEqual(probes.what_a_child_gets()[1], "")

    def test_no_file_of_anybody(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "original.jpg").write_bytes(b"somebody's answer")
            for path in (f"{folder}/original.jpg", "/etc/passwd"):
                self.assertNotEqual(probes.read_file(path), "")
                self.assertEqual(run_limited(probes.read_file, path), "")
            self.assertEqual(run_limited(probes.list_folder, folder), "")

    def test_no_network(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as listening:
            port = listening.getsockname()[1]
            self.assertEqual(probes.open_network("127.0.0.1", port), "connected")
            self.assertEqual(run_limited(probes.open_network, "127.0.0.1", port), "")
        self.assertEqual((probes.open_socket(), run_limited(probes.open_socket)), ("a socket", ""))

    def test_no_program_no_other_process_and_no_writing(self) -> None:
        self.assertNotEqual(probes.start_program(), "")
        self.assertEqual(run_limited(probes.start_program), "")
        self.assertEqual(run_limited(probes.type_into_terminal), "")
        self.assertNotEqual(probes.stop_others(), "")
        self.assertEqual(run_limited(probes.stop_others), "")
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(probes.write_file(folder), "written")
        self.assertEqual(run_limited(probes.write_file, "/tmp"), "")

    def test_what_holds_is_found_out_and_named(self) -> None:
        self.assertEqual(isolation().missing, ())
        leaky = Isolation(True, True, False, True, True, True, limited_calls=False)
        self.assertEqual((leaky.holds, leaky.missing), (False, ("no_network", "limited_calls")))

    def test_without_namespaces_it_still_has_no_secrets_and_few_calls(self) -> None:
        """The second best, where a machine has no bwrap: `missing` says what is not held."""
        plain = sandbox._Server(isolated=False)
        self.addCleanup(plain.end)
        with mock.patch.object(sandbox, "_server", plain):
            self.assertEqual(isolation().missing, ("no_files",))


class WhatComesBack(unittest.TestCase):
    def trouble(self, function: object, seconds: int = 2) -> Trouble:
        with self.assertRaises(PageError) as caught:
            run_limited(function, limits=Limits(seconds=seconds))  # type: ignore[arg-type]
        return caught.exception.trouble

    def test_a_result(self) -> None:
        self.assertEqual(run_limited(count_pages, picture(), DEFAULT_LIMITS), 1)

    def test_what_can_be_seen_early_comes_before_the_result_and_is_the_same(self) -> None:
        told: list[FirstView] = []
        page = run_limited(prepare, picture(), 0, early=told.append)
        self.assertEqual([view.preview for view in told], [page.preview])
        self.assertEqual((told[0].image_width, told[0].image_height), (page.image_width, page.image_height))

    def test_the_same_as_without_a_sandbox(self) -> None:
        self.assertEqual(run_limited(prepare, picture(), 0), prepare(picture(), 0))

    def test_what_came_early_was_told_also_where_the_rest_fails(self) -> None:
        told: list[str] = []
        with self.assertRaises(PageError) as caught:
            run_limited(probes.speak_then_crash, early=told.append)
        self.assertEqual((told, caught.exception.trouble), (["early"], Trouble.DECODER_DIED))
        with self.assertRaises(PageError) as caught:
            run_limited(probes.speak_for_ever, early=told.append, limits=Limits(seconds=1))
        self.assertEqual(caught.exception.trouble, Trouble.TOOK_TOO_LONG)
        self.assertGreater(len(told), 2)

    def test_an_error_of_the_function_comes_back_as_itself(self) -> None:
        self.assertEqual(self.trouble(probes.fail), Trouble.WRONG_KIND)

    def test_time_memory_and_a_crash_cost_one_page_and_not_us(self) -> None:
        self.assertEqual(self.trouble(probes.loop), Trouble.TOOK_TOO_LONG)
        self.assertEqual(self.trouble(probes.hoard), Trouble.TOO_MUCH_MEMORY)
        self.assertEqual(self.trouble(probes.crash), Trouble.DECODER_DIED)

    def test_an_answer_of_another_type_is_none(self) -> None:
        with self.assertLogs(sandbox.logger):
            self.assertEqual(self.trouble(probes.lie), Trouble.DECODER_DIED)

    def test_a_machine_that_gives_no_time_says_nothing_against_the_page(self) -> None:
        """The limit is one of processor time; what the machine ends, or never lets run, is tried again."""
        self.assertEqual(self.trouble(probes.be_ended), Trouble.MACHINE_BUSY)
        with mock.patch("folio_core.page.sandbox._WALL_TIMES", 1):
            self.assertEqual(self.trouble(probes.sleep, seconds=1), Trouble.MACHINE_BUSY)

    def test_a_fork_server_that_ended_is_started_again(self) -> None:
        sandbox._the_server().end()
        self.assertEqual(run_limited(count_pages, picture(), DEFAULT_LIMITS), 1)

    def test_only_functions_of_this_package_are_run(self) -> None:
        with mock.patch("folio_core.page.sandbox._ask") as asking:
            asking.side_effect = lambda to, *_: frames.send(
                to, "run", {"function": "os.getpid", "arguments": [], "limits": Limits(), "early": False}
            )
            self.assertEqual(self.trouble(count_pages), Trouble.DECODER_DIED)


class Frames(unittest.TestCase):
    def setUp(self) -> None:
        self.ours, self.theirs = socket.socketpair()
        self.addCleanup(self.ours.close)
        self.addCleanup(self.theirs.close)

    def test_bytes_and_values_pass_unchanged(self) -> None:
        frames.send(self.theirs, "done", {"a": b"\x00\xff", "b": [1, 2.5, None, "é"], "c": b""})
        self.assertEqual(frames.receive(self.ours), ("done", {"a": b"\x00\xff", "b": [1, 2.5, None, "é"], "c": b""}))

    def test_what_is_no_frame_is_refused(self) -> None:
        for sent in (b"\xff\xff\xff\xff", b"\0\0\0\2[]", b'\0\0\0\x2b{"kind": 1, "value": null, "blobs": [1, -2]}  '):
            with self.subTest(sent=sent):
                ours, theirs = socket.socketpair()
                with ours, theirs:
                    theirs.sendall(sent)
                    theirs.close()
                    with self.assertRaises((ValueError, KeyError, TypeError, EOFError)):
                        frames.receive(ours)

    def test_a_side_that_is_silent_or_gone_is_told(self) -> None:
        with self.assertRaises(TimeoutError):
            frames.receive(self.ours, time.monotonic() + 0.01)
        self.theirs.close()
        with self.assertRaises(EOFError):
            frames.receive(self.ours)
