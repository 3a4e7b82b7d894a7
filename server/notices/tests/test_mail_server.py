"""Mail as a real mail server gets it, over SMTP on loopback."""

from __future__ import annotations

import socket
from email import message_from_bytes, policy
from email.message import EmailMessage
from typing import Any
from unittest import mock

from aiosmtpd.controller import Controller
from django.test import TestCase, override_settings

from notices import outbox
from notices.models import Mail
from testing.desk import NOW


class Receiving:
    """Keeps what comes; refuses the address that does not exist, and is busy for another."""

    def __init__(self) -> None:
        self.messages: list[EmailMessage] = []

    async def handle_RCPT(self, server: Any, session: Any, envelope: Any, address: str, options: Any) -> str:
        if address.startswith("nobody"):
            return "550 5.1.1 No such person here"
        if address.startswith("busy"):
            return "450 4.2.1 Try again later"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: Any, session: Any, envelope: Any) -> str:
        self.messages.append(message_from_bytes(envelope.content, policy=policy.default))  # type: ignore[arg-type]
        return "250 OK"


class OverSmtp(TestCase):
    def setUp(self) -> None:
        self.receiving = Receiving()
        port = self.started()
        self.enterContext(
            override_settings(
                EMAIL_BACKEND="django.core.mail.backends.smtp.EmailBackend", EMAIL_HOST="127.0.0.1", EMAIL_PORT=port,
                EMAIL_USE_TLS=False, EMAIL_HOST_USER="", FOLIO_ADDRESS_IN_MAILS="https://folio.example",
            )
        )  # fmt: skip

    def started(self) -> int:
        """The port it listens on. Between asking for a free one and taking it somebody else may: then another."""
        for _ in range(20):
            with socket.socket() as free:
                free.bind(("127.0.0.1", 0))
                port: int = free.getsockname()[1]
            controller = Controller(self.receiving, hostname="127.0.0.1", port=port, ready_timeout=120)
            try:
                controller.start()
            except OSError:
                continue
            self.addCleanup(controller.stop)
            return port
        raise AssertionError("No port was free.")

    def post(self, to: str = "ilse@kestrelpoint.example") -> Mail:
        return outbox.post(
            to, "NAV 231: handed in – Łucja", "The text, with ł", NOW, html="<p>The text, with ł</p>",
            leave_path="/no-more-mail/abc", attachment=("receipt.pdf", b"%PDF-1.7 receipt"),
        )  # fmt: skip

    def test_it_comes_whole_as_text_as_html_and_with_its_attachment(self) -> None:
        """RFC 5322, 3.6; RFC 8058, 3.1: both headers, an https address, List-Unsubscribe=One-Click."""
        outbox.send(self.post().pk, NOW)
        (message,) = self.receiving.messages
        self.assertEqual(message["Subject"], "NAV 231: handed in – Łucja")
        self.assertEqual(message["To"], "ilse@kestrelpoint.example")
        self.assertRegex(message["Message-ID"], r"^<mail-\d+-\d+@folio\.example>$")
        self.assertTrue(message["Date"] and message["From"])
        self.assertEqual(message["List-Unsubscribe"], "<https://folio.example/api/no-more-mail/abc>")
        self.assertEqual(message["List-Unsubscribe-Post"], "List-Unsubscribe=One-Click")
        self.assertEqual(message["Auto-Submitted"], "auto-generated")  # RFC 3834, 5
        plain, html = message.get_body(("plain",)), message.get_body(("html",))
        assert plain is not None
        assert html is not None
        self.assertEqual(plain.get_content().strip(), "The text, with ł")
        self.assertIn("<p>The text, with ł</p>", html.get_content())
        (attached,) = message.iter_attachments()
        self.assertEqual((attached.get_filename(), attached.get_content()), ("receipt.pdf", b"%PDF-1.7 receipt"))

    def test_an_address_that_does_not_exist_is_kept_as_that_and_not_tried_again(self) -> None:
        mail = self.post("nobody@kestrelpoint.example")
        outbox.send(mail.pk, NOW)
        mail.refresh_from_db()
        self.assertEqual((mail.sent_at, mail.bounced_at), (None, NOW))
        self.assertIn("550", mail.trouble)
        self.assertEqual(outbox.enqueue_unsent(), 0)

    def test_a_busy_server_is_tried_again(self) -> None:
        mail = self.post("busy@kestrelpoint.example")
        with self.assertRaises(OSError):
            outbox.send(mail.pk, NOW)
        mail.refresh_from_db()
        self.assertEqual((mail.sent_at, mail.bounced_at), (None, None))
        self.assertEqual(outbox.enqueue_unsent(), 1)

    def test_killed_after_the_server_took_it_the_same_message_comes_again_by_its_id(self) -> None:
        """Where the answer is lost nothing tells whether it was taken; by RFC 5322, 3.6.4, receivers can tell."""
        mail = self.post()
        with mock.patch.object(Mail, "save", side_effect=KeyboardInterrupt), self.assertRaises(KeyboardInterrupt):
            outbox.send(mail.pk, NOW)
        outbox.send(mail.pk, NOW)
        outbox.send(mail.pk, NOW)
        first, second = self.receiving.messages
        self.assertEqual(first["Message-ID"], second["Message-ID"])
