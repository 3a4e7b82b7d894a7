"""`./folio …`: the commands of a checkout."""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
from pathlib import Path

from . import backup, checkout, install, serving
from .places import CORE, LOGS, PYTHON, ROOT, SERVER, STATE, WEB, Stop
from .postgres import APP_ROLE, Cluster, free_port
from .running import (
    WORKERS,
    Processes,
    manage,
    migrate,
    start_workers,
    wait_until_answering,
    web_command,
    worker_command,
)

_OF_THE_SERVER = (
    "arrival",
    "attack",
    "board",
    "fuzz",
    "marking",
    "reader",
    "sitting",
)  # what `./folio bench` finds there


def main() -> int:
    parser = argparse.ArgumentParser(prog="./folio", description="Inked Folio: run it, test it, work on it.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")

    demo = commands.add_parser("demo", help="install what is missing, load the demo data, start everything")
    demo.add_argument("--fresh", action="store_true", help="throw this checkout's data away and begin anew")
    demo.add_argument("--port", type=int, help="the port to answer on (default: the first free one from 8310)")
    demo.set_defaults(run=_demo)

    test = commands.add_parser("test", help="install what is missing, run all checks and tests")
    test.add_argument(
        "tests", nargs="*", help="only these, as Django's test runner names them: folios.tests.test_arrival"
    )
    test.add_argument("--quick", action="store_true", help="all but the tests in a browser")
    test.add_argument("--no-checks", action="store_true", help="only the tests, not the linters and type checks")
    test.set_defaults(run=_test)

    commands.add_parser("dev", help="both sides with auto-reload, on the demo data").set_defaults(run=_dev)
    commands.add_parser("worker", help="one more worker for pages on these data").set_defaults(run=_worker)
    commands.add_parser("setup", help="only install and build").set_defaults(run=_setup)
    real = commands.add_parser("serve", help="run it for real, with settings of your own (docs/running.md)")
    real.add_argument("settings", type=Path, metavar="SETTINGS", help="a file of lines FOLIO_…=VALUE")
    real.add_argument("--port", type=int, default=8300, help="on loopback, for the proxy (default: 8300)")
    real.add_argument("--check", action="store_true", help="only check whether it may be run")
    real.add_argument(
        "--administrator", metavar="MAIL", help="make the first account; prints a link to set its password"
    )
    real.add_argument("--units", action="store_true", help="print units for systemd instead")
    real.add_argument(
        "--nginx", nargs=2, metavar=("CERTIFICATE", "KEY"), help="print a configuration for nginx instead"
    )
    real.set_defaults(run=_serve)
    keep = commands.add_parser("backup", help="database and files into one archive; may be done while all runs")
    keep.add_argument("file", type=Path, metavar="FILE")
    keep.set_defaults(run=lambda chosen: backup.backup(chosen.file))
    bring = commands.add_parser("restore", help="a backup in the place of this checkout's data")
    bring.add_argument("file", type=Path, metavar="FILE")
    bring.add_argument("--replace", action="store_true", help="give up the data that is here now")
    bring.set_defaults(run=_restore)
    for name, text in (
        ("core", "the core's own command line: prepare, bind, verify"),
        ("bench", "measure and print figures"),
        ("train", "train the network that reads labels: ./folio train labels"),
        ("camera", "try the phone's camera without a phone: opens its link in Chromium with photographs as a camera"),
        ("manage", "Django's command line"),
    ):
        passed_on = commands.add_parser(name, help=text, add_help=False)
        passed_on.set_defaults(run=_passed_on, command=name)

    known, rest = parser.parse_known_args()
    if rest and known.run is not _passed_on:
        parser.error(f"unrecognized arguments: {' '.join(rest)}")
    known.rest = rest
    try:
        status: int = known.run(known) or 0
    except Stop as stop:
        print(f"\nfolio: {stop}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130
    return status


def _restore(chosen: argparse.Namespace) -> None:
    _require_python()
    backup.restore(chosen.file, replace=chosen.replace)


def _setup(_: argparse.Namespace) -> None:
    install.everything(testing=True)


def _demo(chosen: argparse.Namespace) -> None:
    print("Inked Folio · getting ready", flush=True)
    install.everything(testing=False)
    cluster = checkout.cluster()
    if chosen.fresh:
        cluster.remove()
        shutil.rmtree(STATE / "media", ignore_errors=True)
    running_before = cluster.running
    port = chosen.port or checkout.web_port()
    try:
        cluster.start()
        cluster.ensure_database("inkedfolio")
        college = free_port()
        environment = checkout.environment(
            cluster,
            FOLIO_COLLEGE_ISSUER=f"http://127.0.0.1:{college}",
            FOLIO_COLLEGE_CLIENT="inked-folio",
            FOLIO_COLLEGE_SECRET="no-secret-at-all-of-the-demo",
            FOLIO_COLLEGE_NAME="Kestrel Point",
            FOLIO_ISSUER="Kestrel Point Maritime College",
            FOLIO_ADDRESS_IN_MAILS=f"http://127.0.0.1:{port}",
        )
        _ready(cluster, environment)
        with Processes(environment) as processes:
            start_workers(processes)
            processes.start("web", web_command(port))
            back = f"http://127.0.0.1:{port}/sign-in/college/done"
            processes.start("college", [str(PYTHON), "-m", "demo.college", str(college), back])
            wait_until_answering(f"http://127.0.0.1:{port}/", processes)
            manage(environment, "demo_data", "--address", f"http://127.0.0.1:{port}/")
            print("\nCtrl-C stops everything. The data stays; --fresh begins anew.", flush=True)
            processes.wait()
    finally:
        if not running_before:
            cluster.stop()


def _ready(cluster: Cluster, environment: dict[str, str]) -> None:
    migrate(cluster)
    manage(environment, "sweep")
    manage(environment, "collectstatic", "--noinput", "--verbosity", "0")


def _dev(_: argparse.Namespace) -> None:
    install.everything(testing=True)
    cluster = checkout.cluster()
    port = checkout.web_port()
    cluster.start()
    cluster.ensure_database("inkedfolio")
    environment = checkout.environment(
        cluster,
        FOLIO_DEBUG="1",
        FOLIO_LOG_LEVEL="INFO",
        FOLIO_BACKEND=f"http://127.0.0.1:{port}",
        FOLIO_ADDRESS_IN_MAILS="http://127.0.0.1:5173",
    )
    try:
        _ready(cluster, environment)
        with Processes(environment) as processes:
            watched = [str(PYTHON), "-m", "watchfiles", "--filter", "python"]
            for name in WORKERS:
                worker = " ".join(worker_command(name))
                processes.start(f"worker-{name}", [*watched, worker, str(SERVER), str(CORE)], show=True)
            processes.start("web", web_command(port, "--reload-dir", str(SERVER), "--reload-dir", str(CORE)), show=True)
            processes.start("vite", ["npm", "run", "dev"], WEB, show=True)
            wait_until_answering(f"http://127.0.0.1:{port}/", processes)
            manage(environment, "demo_data", "--address", "http://127.0.0.1:5173/")
            processes.wait()
    finally:
        cluster.stop()


def _worker(_: argparse.Namespace) -> int:
    cluster = checkout.cluster()
    if not cluster.running:
        raise Stop("There is no database running for this checkout. Start ./folio demo first, in another terminal.")
    print(f"A worker on port {cluster.port}'s database. Ctrl-C stops it.", flush=True)
    return subprocess.run(worker_command("pages"), cwd=SERVER, env=checkout.environment(cluster)).returncode


def _serve(chosen: argparse.Namespace) -> None:
    if chosen.units:
        print(serving.units(chosen.settings, chosen.port))
    elif chosen.nginx:
        certificate, key = chosen.nginx
        print(serving.nginx(serving.settings_of(chosen.settings), chosen.port, certificate=certificate, key=key))
    else:
        serving.serve(chosen.settings, port=chosen.port, only_check=chosen.check, administrator=chosen.administrator)


def _test(chosen: argparse.Namespace) -> int:
    from .testing import run_everything

    return run_everything(chosen.tests, checks=not chosen.no_checks, quick=chosen.quick)


def _require_python() -> None:
    if not PYTHON.exists():
        install.debian_packages(install.FOR_RUNNING)
        install.python_environment()


def _train(chosen: argparse.Namespace) -> int:
    if chosen.rest[:1] != ["labels"]:
        raise Stop("There is one network to train: ./folio train labels")
    fonts, python = install.hands(), install.training_environment()
    out = CORE / "folio_core" / "reading" / "labels.onnx"
    where = ["--fonts", str(fonts), "--shards", str(STATE / "label-shards"), "--out", str(out)]
    environment = {**os.environ, "PYTHONPATH": str(CORE)}
    return subprocess.run([str(python), "-m", "label_training", *where, *chosen.rest[1:]], env=environment).returncode


def _passed_on(chosen: argparse.Namespace) -> int:
    _require_python()
    if chosen.command == "train":
        return _train(chosen)
    if chosen.command == "bench" and chosen.rest[:1] in (["reading"], ["upright"]):
        chosen.rest += ["--fonts", str(install.hands())]
    if chosen.command == "bench":
        install.web_packages()  # the simulated camera writes with its fonts
    if chosen.rest[:1] in (["board"], ["marking"], ["reader"], ["sitting"]):
        install.everything(testing=True)
    if chosen.command == "manage":
        cluster = checkout.cluster()
        by_owner = chosen.rest[:1] == ["migrate"]
        environment, folder, command = checkout.environment(cluster, owner=by_owner), SERVER, ["manage.py"]
    elif chosen.command == "bench" and chosen.rest[:1] and chosen.rest[0] in _OF_THE_SERVER:
        environment = {**os.environ, "PYTHONPATH": f"{CORE}:{SERVER}:{ROOT}", "OPENBLAS_NUM_THREADS": "1"}
        folder, command, chosen.rest = SERVER, ["-m", f"{chosen.rest[0]}_bench"], chosen.rest[1:]
    else:
        environment = {**os.environ, "PYTHONPATH": str(CORE), "OPENBLAS_NUM_THREADS": "1", "FOLIO_STATE": str(STATE)}
        modules = {"core": "folio_core", "bench": "folio_bench", "camera": "folio_camera"}
        folder, command = None, ["-m", modules[chosen.command]]
    LOGS.mkdir(parents=True, exist_ok=True)
    status = subprocess.run([str(PYTHON), *command, *chosen.rest], cwd=folder, env=environment).returncode
    if chosen.command == "manage" and chosen.rest[:1] == ["migrate"] and status == 0:
        manage(environment, "grant_rights", APP_ROLE)  # who runs the application may use new tables too
    return status


if __name__ == "__main__":
    sys.exit(main())
