"""`./folio bench map`: whether a question paper's map is read as a person would."""

from __future__ import annotations

import argparse
import statistics
import time
from typing import Any

from folio_core.page import DEFAULT_LIMITS
from folio_core.question_paper import propose_map, read_paper

from .papers import HELD_OUT, TUNING, make_paper


def add_command(commands: Any) -> None:
    parser = commands.add_parser("map", help="question papers → how many of their maps need no correction")
    parser.add_argument("--tuning", action="store_true", help="the papers the rules were made on, each wrong one told")
    parser.set_defaults(run=_run)


def _run(chosen: argparse.Namespace) -> None:
    seeds = TUNING if chosen.tuning else HELD_OUT
    right = invented = missed = points_right = points = 0
    seconds = []
    for seed in seeds:
        paper = make_paper(seed)
        begun = time.perf_counter()
        proposal = propose_map(read_paper(paper.pdf, DEFAULT_LIMITS))
        seconds.append(time.perf_counter() - begun)
        labels = [item.label for item in proposal.items]
        right += labels == paper.labels
        invented += bool(set(labels) - set(paper.labels))
        missed += bool(set(paper.labels) - set(labels))
        said = {item.label: item.points for item in proposal.items}
        for label, value in zip(paper.labels, paper.points, strict=True):
            points += 1
            points_right += label in said and said[label] == value
        if chosen.tuning and labels != paper.labels:
            print(f"{seed} ({paper.look}): {proposal.short or 'nothing'}")
            print(f"   wanted: {', '.join(paper.labels)}")
    count = len(seeds)
    print(f"papers               {count} ({'tuning' if chosen.tuning else 'held out'})")
    print(f"no correction        {right / count:.1%} (aim 90 %)")
    print(f"no invented label    {1 - invented / count:.1%} (aim 98 %)")
    print(f"no missing label     {1 - missed / count:.1%}")
    print(f"points as printed    {points_right / points:.1%} of {points} entries")
    print(f"seconds a paper      {statistics.median(seconds):.3f} (median), {max(seconds):.3f} (most)")
