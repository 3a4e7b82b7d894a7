"""The time rules of an assignment as a JSON file, for the command line."""

from __future__ import annotations

import json
from collections.abc import Mapping
from datetime import datetime, tzinfo
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from .clock import Lengthening, Rules, Window, phase, wall_time

_NUMBERS = ("writing_minutes", "handover_minutes", "placing_minutes", "pledge_minutes")
_KEYS = {"opens", "due", "late_until", "due_cuts_sitting", "zone", "personal_due", "lengthened", *_NUMBERS}


class BadRules(ValueError):
    """A rules file that says something it cannot mean. The message names the entry."""


def read_rules(path: Path) -> tuple[Rules, datetime | None, tuple[Lengthening, ...]]:
    """Rules, personal due moment and lengthenings of a file. Raises BadRules, or OSError where it cannot be read.

    Moments are RFC 3339, or without an offset the time of day in ``zone``.
    """
    try:
        plan = json.loads(path.read_text())
        if not isinstance(plan, dict):
            raise BadRules("A rules file holds one JSON object.")
        if unknown := set(plan) - _KEYS:
            raise BadRules(f"“{sorted(unknown)[0]}” is no rule. Known are {', '.join(sorted(_KEYS))}.")
        if missing := {"opens", "due"} - set(plan):
            raise BadRules(f"“{sorted(missing)[0]}” is missing.")
        zone = ZoneInfo(plan.get("zone", "UTC"))
        rules = Rules(
            opens=moment(plan["opens"], zone, ends=False),
            due=moment(plan["due"], zone, ends=True),
            late_until=_optional(plan, "late_until", zone),
            due_cuts_sitting=bool(plan.get("due_cuts_sitting", True)),
            zone=zone,
            **{name: plan[name] for name in _NUMBERS if name in plan},
        )
        given = tuple(
            Lengthening(moment(one["at"], zone, ends=False), one["minutes"]) for one in plan.get("lengthened", ())
        )
        return rules, _optional(plan, "personal_due", zone), given
    except ZoneInfoNotFoundError as error:
        raise BadRules(f"“{plan.get('zone')}” is no time zone of the IANA database.") from error
    except (KeyError, TypeError) as error:
        raise BadRules(f"An entry cannot be read: {error}") from error
    except json.JSONDecodeError as error:
        raise BadRules(f"This is no JSON: {error}") from error


def _optional(plan: Mapping[str, Any], name: str, zone: tzinfo) -> datetime | None:
    return None if plan.get(name) is None else moment(plan[name], zone, ends=True)


def moment(text: str, zone: tzinfo, *, ends: bool) -> datetime:
    """An RFC 3339 moment, or a time of day in ``zone``. Raises BadRules."""
    try:
        read = datetime.fromisoformat(text)
    except (TypeError, ValueError) as error:
        raise BadRules(f"“{text}” is no moment. Write it like 2026-11-26T15:00:00-04:00.") from error
    return read if read.tzinfo is not None else wall_time(read, zone, ends=ends)


def described(win: Window, now: datetime) -> dict[str, Any]:
    """Every instant of a window in its zone (RFC 3339), and the phase."""
    instants = {
        "opens": win.rules.opens,
        "due": win.rules.due,
        "late_until": win.rules.late_until,
        "begun": win.begun,
        "latest_full_begin": win.latest_full_begin,
        "writing_ends": win.writing_ends,
        "handover_ends": win.handover_ends,
        "closes": win.closes,
        "pledges_end": win.pledges_end,
        "placing_ends": win.placing_ends,
        **({"asked_until": win.asked_until} if win.asked_until else {}),
    }
    zone = win.rules.zone
    told = {name: None if at is None else at.astimezone(zone).isoformat() for name, at in instants.items()}
    return {**told, "now": now.astimezone(zone).isoformat(), "phase": phase(win, now)}
