"""The pictures that the network reads: the beginning of a line, all of one size."""

from __future__ import annotations

CROP_HEIGHT, CROP_WIDTH = 36, 208
CROP_DIGITS_HIGH = 2.0  # a crop is so many digits high
CROP_LEFT_DIGITS = 0.5  # of paper are left before what stands first
# What is read: the levels of a label joined, "/" before or within a page number, "~" behind what is continued.
ALPHABET = "0123456789abcdefghijklmnopqrstuvwxyz./~"
BLANK = len(ALPHABET)  # of the connectionist temporal classification (Graves et al. 2006)
