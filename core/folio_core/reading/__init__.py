"""Reading: which labels stand on a page, where, and how sure that is.

An `engine` finds where lines begin (`finding`), a network reads each beginning, and `decoding` spells out what it may
say. What the labels mean for a folio is decided in `placing.proposal`.
"""

from .page_reading import Candidate, Engine, Mark, PageReading

__all__ = ["Candidate", "Engine", "Mark", "PageReading"]
