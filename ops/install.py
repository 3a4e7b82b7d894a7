"""Installing what the project needs: Debian packages, the Python environment, web packages, the built front end.

Each step leaves a stamp with the hash of what it was made from, so that a second start takes no time.
"""

from __future__ import annotations

import hashlib
import os
import platform
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

from .places import CORE, LOGS, PYTHON, ROOT, STATE, VENV, WEB, Stop

POSTGRES_BIN = Path("/usr/lib/postgresql/15/bin")  # Debian 12's version
DEBIAN_PACKAGES = {
    "postgresql-15": POSTGRES_BIN / "initdb",
    "chromium": Path("/usr/bin/chromium"),
    "chromium-headless-shell": Path("/usr/bin/chromium-headless-shell"),
    "fonts-liberation": Path("/usr/share/fonts/truetype/liberation"),
    "fonts-dejavu-core": Path("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf"),  # names in bound documents
    "fonts-droid-fallback": Path("/usr/share/fonts/truetype/droid/DroidSansFallbackFull.ttf"),  # in Chinese and others
    "nginx-light": Path("/usr/sbin/nginx"),  # the proxy guide is tried in the tests
    "poppler-utils": Path("/usr/bin/pdfdetach"),  # bound documents are read by others than their writer
    "qpdf": Path("/usr/bin/qpdf"),
    "openssl": Path("/usr/bin/openssl"),  # a certificate for it
    "bubblewrap": Path("/usr/bin/bwrap"),  # the sandbox of the decoders
    "libseccomp2": Path(f"/usr/lib/{platform.machine()}-linux-gnu/libseccomp.so.2"),
}
_CLUSTER_RULES = Path("/etc/postgresql-common/createcluster.conf")
FOR_RUNNING = ("postgresql-15", "bubblewrap", "libseccomp2", "fonts-dejavu-core", "fonts-droid-fallback")
FOR_TESTING = (*FOR_RUNNING, "chromium", "fonts-liberation", "nginx-light", "openssl", "poppler-utils", "qpdf")
QUICKER_TESTS = ("chromium-headless-shell",)


def everything(*, testing: bool) -> None:
    debian_packages(FOR_TESTING if testing else FOR_RUNNING)
    if testing:
        _quicker_browser()
    python_environment()
    web_packages()
    front_end()


def debian_packages(names: Iterable[str]) -> None:
    missing = [name for name in names if not DEBIAN_PACKAGES[name].exists()]
    if not _has_venv():
        missing.append("python3-venv")
    if not missing:
        return
    root = _as_root(missing)
    # Debian's PostgreSQL would make and start a cluster of its own for the whole machine; ours is private.
    if "postgresql-15" in missing:
        rule = f'mkdir -p {_CLUSTER_RULES.parent} && echo "create_main_cluster = false" > {_CLUSTER_RULES}'
        if not _CLUSTER_RULES.exists():
            _run([*root, "sh", "-c", rule], "keeping Debian from starting a PostgreSQL of its own")
    apt = [*root, "env", "DEBIAN_FRONTEND=noninteractive", "apt-get", "-q"]
    _run([*apt, "update"], "reading Debian's package lists")
    keep = ["-o", "Dpkg::Options::=--force-confold"]
    _run([*apt, "install", "-y", "--no-install-recommends", *keep, *missing], f"installing {', '.join(missing)}")


def _quicker_browser() -> None:
    """Chromium without its windows takes a fifth less of the browser tests' time; without it they use the whole one."""
    try:
        debian_packages(QUICKER_TESTS)
    except Stop:
        print(f"  {', '.join(QUICKER_TESTS)} cannot be had; the tests use chromium", flush=True)


def _has_venv() -> bool:
    try:
        import ensurepip  # noqa: F401 (Debian splits it from Python)
    except ImportError:
        return False
    return True


def _as_root(missing: list[str]) -> list[str]:
    if os.geteuid() == 0:
        return []
    if shutil.which("sudo") and subprocess.run(["sudo", "-n", "true"], capture_output=True).returncode == 0:
        return ["sudo", "-n"]
    raise Stop(
        "Some Debian packages are missing and this user can install none (not root, no sudo without a password).\n"
        f"Have them installed, then run this again:  apt-get install {' '.join(missing)}"
    )


def python_environment() -> None:
    lock = ROOT / "requirements.lock"
    stamp = _Stamp("python", [lock])
    if stamp.fresh and PYTHON.exists():
        return
    if not PYTHON.exists():
        _run([sys.executable, "-m", "venv", str(VENV)], "making .venv")
    pip = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    _run([*pip, "--require-hashes", "-r", str(lock)], "installing Python packages (a minute or two)")
    stamp.set()


def web_packages() -> None:
    _require_node()
    stamp = _Stamp("web-packages", [WEB / "package-lock.json"])
    if stamp.fresh and (WEB / "node_modules").exists():
        return
    _run(["npm", "ci", "--no-audit", "--no-fund"], "installing web packages (about a minute)", WEB)
    stamp.set()


def hands() -> Path:
    """Handwriting fonts and real digits, which only training and measuring need. Returns where they are."""
    _require_node()
    packages, folder = CORE / "label_training" / "hands_packages", STATE / "hands"
    files = [packages / "package.json", packages / "package-lock.json"]
    stamp = _Stamp("hands", files)
    if not stamp.fresh or not (folder / "node_modules").exists():
        folder.mkdir(parents=True, exist_ok=True)
        for file in files:
            shutil.copy(file, folder)
        _run(["npm", "ci", "--no-audit", "--no-fund"], "installing handwriting fonts", folder)
        stamp.set()
    return folder


def training_environment() -> Path:
    """Its own environment, with PyTorch; the project's packages are seen from it. Returns its Python."""
    wanted, folder = CORE / "label_training" / "requirements.txt", STATE / "training"
    stamp = _Stamp("training", [wanted, ROOT / "requirements.lock"])
    python = folder / "bin" / "python"
    if not stamp.fresh or not python.exists():
        _run([sys.executable, "-m", "venv", str(folder)], "making an environment for training")
        pip = [str(python), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
        _run([*pip, "-r", str(wanted)], "installing PyTorch (minutes)")
        packages = next((VENV / "lib").glob("python3.*")) / "site-packages"
        here = next((folder / "lib").glob("python3.*")) / "site-packages"
        (here / "project.pth").write_text(f"{packages}\n")
        stamp.set()
    return python


def front_end() -> None:
    sources = sorted(path for folder in ("src", "public") for path in (WEB / folder).rglob("*") if path.is_file())
    sources += [WEB / "index.html", WEB / "vite.config.ts", WEB / "package-lock.json"]
    stamp = _Stamp("front-end", sources)
    if stamp.fresh and (WEB / "dist" / "index.html").exists():
        return
    _run(["npm", "run", "build"], "building the front end", WEB)
    stamp.set()


def _require_node() -> None:
    node = shutil.which("node")
    version = subprocess.run([node, "--version"], capture_output=True, text=True).stdout if node else ""
    if not version.startswith("v") or int(version[1:].split(".")[0]) < 20:
        raise Stop(
            f"Node 20 or newer is needed; found {version.strip() or 'none'}. Install Node 20 and run this again."
        )


class _Stamp:
    """Remembers from which inputs a step was last done."""

    def __init__(self, name: str, inputs: list[Path]) -> None:
        self._file = STATE / "stamps" / name
        digest = hashlib.sha256()
        for path in inputs:
            digest.update(str(path.relative_to(ROOT)).encode() + b"\0" + path.read_bytes())
        self._now = digest.hexdigest()
        self.fresh = self._file.exists() and self._file.read_text() == self._now

    def set(self) -> None:
        self._file.parent.mkdir(parents=True, exist_ok=True)
        self._file.write_text(self._now)


def _run(command: list[str], doing: str, folder: Path = ROOT) -> None:
    """Run a step with its output in a log; a failure shows the log's end."""
    print(f"  {doing} …", flush=True)
    LOGS.mkdir(parents=True, exist_ok=True)
    log = LOGS / "install.log"
    with log.open("ab") as out:
        done = subprocess.run(command, cwd=folder, stdout=out, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL)
    if done.returncode != 0:
        tail = "\n".join(log.read_text(errors="replace").splitlines()[-25:])
        raise Stop(
            f"{tail}\n\nThis step failed: {doing}.\nThe command was: {' '.join(command)}\nIts whole output: {log}"
        )
