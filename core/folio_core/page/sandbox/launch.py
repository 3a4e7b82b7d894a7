"""Starting the sandbox: a fork server in namespaces of its own where the machine allows it, as a plain child where not.

Inside there is no network, no environment, no home, no storage: the interpreter, its packages and this code, read-only.
"""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
from pathlib import Path

import folio_core

_MODULE = "folio_core.page.sandbox.server"
_SYSTEM = ("/usr", "/lib", "/lib64", "/bin", "/etc/ld.so.cache", "/etc/alternatives")
_NOBODY = "65534"


def start(control: socket.socket, *, isolated: bool) -> subprocess.Popen[bytes]:
    """The fork server with the other end of its control socket."""
    descriptor = control.fileno()
    server = [sys.executable, "-I", "-c", _begin(), str(descriptor)]
    command = [*_bubblewrap(), *server] if isolated else server
    # A group of its own: who stops the worker's group lets the pages it has begun be finished.
    return subprocess.Popen(
        command, pass_fds=[descriptor], env=_environment(), stdin=subprocess.DEVNULL, process_group=0, cwd="/"
    )


def can_isolate() -> bool:
    return shutil.which("bwrap") is not None


def _begin() -> str:
    """Isolated from the user's own settings (``-I``), so the folder of this code is given by hand."""
    folders = [str(Path(folio_core.__file__).parents[1])]
    return f"import sys; sys.path[:0] = {folders!r}; import runpy; runpy.run_module({_MODULE!r}, run_name='__main__')"


def _environment() -> dict[str, str]:
    return {"LANG": "C.UTF-8", "OPENBLAS_NUM_THREADS": "1", "ORT_DISABLE_TELEMETRY": "1"}


def _bubblewrap() -> list[str]:
    """bwrap(1). No session of its own: between sessions Linux heeds no idle class (sched(7), autogroups)."""
    code = Path(folio_core.__file__).parents[1]
    own = sorted({sys.base_prefix, sys.prefix, str(Path(os.path.realpath(sys.executable)).parents[1]), str(code)})
    command = ["bwrap", "--unshare-all", "--unshare-user", "--uid", _NOBODY, "--gid", _NOBODY, "--hostname", "sandbox",
               "--cap-drop", "ALL"]  # fmt: skip
    for path in _SYSTEM:
        if Path(path).is_symlink():
            command += ["--symlink", os.readlink(path), path]
        elif Path(path).exists():
            command += ["--ro-bind", path, path]
    for path in own:
        if not any(Path(path).is_relative_to(system) for system in _SYSTEM):
            command += ["--ro-bind", path, path]
    return [*command, "--dev", "/dev", "--proc", "/proc", "--remount-ro", "/", "--chdir", "/", "--"]
