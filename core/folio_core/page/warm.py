"""Loaded by the fork server before it starts children: what each of them would otherwise load again."""

from __future__ import annotations

from .sheet.judge import warm_up as load_judge
from .upright import warm_up as load_network

load_judge()
load_network()
