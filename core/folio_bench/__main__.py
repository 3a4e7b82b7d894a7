"""`./folio bench page`: one subcommand a figure."""

from __future__ import annotations

import argparse

from . import bind, fit_sheet, forms, image, page, question_map, reading, upright


def main() -> None:
    parser = argparse.ArgumentParser(prog="./folio bench", description="Measure and print figures.")
    commands = parser.add_subparsers(required=True, metavar="FIGURE")
    page.add_command(commands)
    bind.add_command(commands)
    image.add_command(commands)
    fit_sheet.add_command(commands)
    question_map.add_command(commands)
    reading.add_command(commands)
    upright.add_command(commands)
    forms.add_command(commands)
    arguments = parser.parse_args()
    arguments.run(arguments)


if __name__ == "__main__":
    main()
