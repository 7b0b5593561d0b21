"""A PostgreSQL of our own, from Debian's packages, on loopback, in a data folder of its own."""

from __future__ import annotations

import contextlib
import hashlib
import os
import random
import secrets
import shutil
import socket
import subprocess
import tempfile
from pathlib import Path

from aimtrue.cli.system import SetupError, install, say
from aimtrue.settings import DATABASE_USER as USER
from aimtrue.settings import address_of, password_file

_BOUNDED = "-c max_wal_size=192MB -c min_wal_size=16MB -c wal_compression=on"
"""How much the write-ahead log may grow beyond what was checked in; by itself it would grow to a gigabyte."""
_PORTS = range(20_000, 32_000)
_SERVER_USER = "postgres"  # Debian's package makes this user; PostgreSQL refuses to run as root.


class Postgres:
    """A cluster in a folder.

    Args:
        folder: where its data is, or shall be.
        port: on 127.0.0.1.
        lasting: False trades safety against a power cut for speed; for tests.
    """

    def __init__(self, folder: Path, port: int, *, lasting: bool = True) -> None:
        self.port = port
        self.folder = _reachable(folder)
        self.passfile = password_file(folder)
        self.lasting = lasting
        self._programs = _programs(self.folder)

    @property
    def address(self) -> str:
        """The libpq address of its database."""
        return address_of(self.port, self.passfile)

    def start(self) -> None:
        """Make the cluster when there is none, and start it unless it runs.

        Raises:
            SetupError: the port is taken, or PostgreSQL does not start.
        """
        if not (self.folder / "PG_VERSION").exists():
            self._make()
        if self.running():
            return
        _refuse_taken(self.port)
        options = f"-p {self.port} -c listen_addresses=127.0.0.1 -c unix_socket_directories='' {_BOUNDED}"
        if not self.lasting:
            options += " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"
        self._run(
            "pg_ctl",
            "-D",
            str(self.folder),
            "-w",
            "-t",
            "60",
            "-l",
            str(self.folder / "server.log"),
            "-o",
            options,
            "start",
        )
        if not self.passfile.exists():
            self._ask_for_password()
        self._make_database()

    def stop(self) -> None:
        """Stop it, waiting until all is written."""
        if self.running():
            self._run("pg_ctl", "-D", str(self.folder), "-m", "fast", "-w", "stop")

    def running(self) -> bool:
        """Tell whether its server runs."""
        return self._call("pg_ctl", "-D", str(self.folder), "status").returncode == 0 and self.alive()

    def alive(self) -> bool:
        """Tell, without asking anybody, whether the process of its server is there and not just yet to be
        buried.
        """
        try:
            pid = (self.folder / "postmaster.pid").read_text().split()[0]
            state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
        except (OSError, IndexError):
            return False
        return state not in ("Z", "X")

    def mind(self) -> None:
        """Start it again if it ended; what cannot be done now is tried again when this is called again."""
        if not self.alive():
            say("the database ended by itself; starting it again")
            with contextlib.suppress(SetupError):
                self.start()

    def _make(self) -> None:
        say("making a database ...")
        self.folder.mkdir(parents=True, exist_ok=True)
        self.folder.chmod(0o700)
        if os.geteuid() == 0:
            shutil.chown(self.folder, _SERVER_USER, _SERVER_USER)
        password = secrets.token_urlsafe(24)
        with tempfile.NamedTemporaryFile("w") as secret:  # Only its owner can read this file.
            secret.write(password)
            secret.flush()
            if os.geteuid() == 0:
                shutil.chown(secret.name, _SERVER_USER, _SERVER_USER)
            options = ["--auth=scram-sha-256", f"--pwfile={secret.name}", "--wal-segsize=4"]
            options += ["--encoding=UTF8", "--locale=C.UTF-8", "--data-checksums"]
            self._run("initdb", "-D", str(self.folder), "-U", USER, *options)
        self._keep_password(password)

    def _keep_password(self, password: str) -> None:
        """Write it where its owner alone can read it, as libpq reads it."""
        self.passfile.parent.mkdir(parents=True, exist_ok=True)
        self.passfile.unlink(missing_ok=True)
        with open(os.open(self.passfile, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "w") as file:
            file.write(f"127.0.0.1:*:*:{USER}:{password}\n")

    def _ask_for_password(self) -> None:
        """Let a database that was made when none was asked for ask for one from now on.

        Raises:
            SetupError: it asks for one already, and the file that has it is gone.
        """
        import psycopg

        access, password = self.folder / "pg_hba.conf", secrets.token_urlsafe(24)
        try:
            with psycopg.connect(self._database("postgres"), autocommit=True) as connection:
                connection.execute(f"alter role {USER} password '{password}'")
                self._keep_password(password)
                access.write_text(access.read_text().replace("trust\n", "scram-sha-256\n"))
                connection.execute("select pg_reload_conf()")
        except psycopg.OperationalError:
            raise SetupError(f"the database's password is missing: it was in {self.passfile}") from None

    def _database(self, name: str) -> str:
        return self.address.replace(f"/{USER}?", f"/{name}?")

    def _make_database(self) -> None:
        import psycopg

        with psycopg.connect(self._database("postgres"), autocommit=True) as connection:
            if not connection.execute("select 1 from pg_database where datname = %s", (USER,)).fetchone():
                connection.execute(f"create database {USER}")

    def _run(self, program: str, *arguments: str) -> None:
        done = self._call(program, *arguments)
        if done.returncode != 0:
            log = self.folder / "server.log"
            tail = log.read_text(errors="replace")[-1500:] if log.exists() else ""
            raise SetupError(f"PostgreSQL: {program} failed:\n{done.stderr}\n{tail}")

    def _call(self, program: str, *arguments: str) -> subprocess.CompletedProcess[str]:
        command = [str(self._programs / program), *arguments]
        if os.geteuid() == 0:
            command = ["runuser", "-u", _SERVER_USER, "--", *command]
        # Output goes to a file: pg_ctl leaves a server behind that would hold a pipe open for ever.
        with tempfile.TemporaryFile("w+") as out:
            code = subprocess.run(
                command, cwd="/", stdout=out, stderr=out, stdin=subprocess.DEVNULL, check=False
            ).returncode
            out.seek(0)
            return subprocess.CompletedProcess(command, code, "", out.read())


def free_port() -> int:
    """Return a port on loopback that nobody uses just now.

    It is below those that the kernel gives to connections, so that none of them takes it before it is used.

    Raises:
        SetupError: a hundred that were tried are all taken.
    """
    for port in random.sample(_PORTS, 100):
        with socket.socket() as probe, contextlib.suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port
    raise SetupError("no free port was found on 127.0.0.1")


def _refuse_taken(port: int) -> None:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            raise SetupError(
                f"port {port} for the database is taken by another program; choose another with "
                "AIMTRUE_DATABASE_PORT"
            ) from None


def _programs(folder: Path) -> Path:
    """Return where the programs of PostgreSQL are: of the version that made a folder's data, else the newest.

    Raises:
        SetupError: that version is not here any more; another cannot read what it left.
    """
    version_file = folder / "PG_VERSION"
    paths = _versions()
    if not version_file.exists():
        return paths[-1].parent
    version = version_file.read_text().strip()
    own = next((path.parent for path in paths if path.parts[-3] == version), None)
    if own is None:
        here = ", ".join(path.parts[-3] for path in paths)
        raise SetupError(
            f"the database in {folder} was made by PostgreSQL {version}; here is {here}, which cannot read "
            f"it: install postgresql-{version}, or move the data over with pg_upgrade"
        )
    return own


def _versions() -> list[Path]:
    paths = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"), key=lambda path: int(path.parts[-3]))
    if not paths:
        install("postgresql")
        paths = sorted(Path("/usr/lib/postgresql").glob("*/bin/initdb"))
    if not paths:
        raise SetupError("PostgreSQL's server programs were not found under /usr/lib/postgresql")
    return paths


def _reachable(folder: Path) -> Path:
    """Return the folder, or as root a stand-in when the server's user cannot reach it."""
    folder = folder.resolve()
    if os.geteuid() != 0 or all(
        parent.stat().st_mode & 0o001 for parent in folder.parents if parent.exists()
    ):
        return folder
    name = hashlib.sha256(str(folder).encode()).hexdigest()[:16]
    return Path("/var/lib") / f"aimtrue-{name}" / "postgres"


def temporary(parent: Path) -> Postgres:
    """Return a cluster for tests, in a fresh folder on a free port."""
    return Postgres(parent / f"postgres-{secrets.token_hex(4)}", free_port(), lasting=False)
