from __future__ import annotations

import hashlib
import tempfile

from django.test import SimpleTestCase, override_settings

from pages.files import image_name, image_type, put_image
from plumbing import storage


class Images(SimpleTestCase):
    def test_an_image_is_named_by_its_hash(self) -> None:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        with override_settings(MEDIA_ROOT=folder):
            name = put_image(7, b"jpeg bytes")
            self.assertEqual(name, hashlib.sha256(b"jpeg bytes").hexdigest())
            self.assertEqual(storage.get(image_name(7, name)), b"jpeg bytes")

    def test_one_bit_pictures_are_png_and_all_others_jpeg(self) -> None:
        self.assertEqual((image_type(b"\x89PNG ..."), image_type(b"\xff\xd8 ...")), ("image/png", "image/jpeg"))
