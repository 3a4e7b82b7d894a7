"""Django's command line. `./folio manage …` calls it with the checkout's own environment."""

import os
import sys


def main() -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "inkedfolio.settings")
    if sys.argv[1:2] == ["work"]:
        from folio_core.page.sandbox import start_beside

        start_beside()  # it takes as long as Django does, and the first page waits for both
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()
