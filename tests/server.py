"""A PostgreSQL server of the tests' own, with the databases that they ask for; gone when they end."""

import glob
import itertools
import os
import random
import shutil
import subprocess
import tempfile
from pathlib import Path

from anvilsong.store.places import OnServer

ADMIN = "postgres"


def binaries():
    """Where the server's programs are: the newest that is installed."""
    found = sorted(glob.glob("/usr/lib/postgresql/*/bin/initdb"), key=lambda path: int(path.split("/")[4]))
    path = found[-1] if found else shutil.which("initdb")
    assert path, "PostgreSQL is not installed: `make test` does it, or install the package postgresql"
    return Path(path).parent


class Server:
    """A server that listens on this machine alone. A server refuses to run as root: then it runs as the user that its package makes."""

    def __init__(self, is_safe=False):
        """``is_safe``: every commit reaches the disk, for what kills the server itself; otherwise it is quicker."""
        self.folder = Path(tempfile.mkdtemp(prefix="anvilsong-server-"))
        self.as_user = {"user": ADMIN} if os.getuid() == 0 else {}
        if self.as_user:
            shutil.chown(self.folder, ADMIN)
        self._names = itertools.count()
        self._run(
            "initdb", "-D", self.folder / "data", "-A", "trust", "-U", ADMIN, "-E", "UTF8", "--locale=C.UTF-8"
        )
        with (self.folder / "data" / "postgresql.conf").open("a") as conf:
            conf.write(
                "listen_addresses = '127.0.0.1'\nunix_socket_directories = ''\nmax_connections = 200\n"
            )
            conf.write(
                "shared_buffers = 64MB\n" + ("" if is_safe else "fsync = off\nfull_page_writes = off\n")
            )
        self.start()

    def start(self, port=None):
        """Start it, at a port of its own or at one that it had before."""
        for _ in range(20):
            self.port = port or random.SystemRandom().randrange(20_000, 32_000)
            options = f"-p {self.port}"
            if self._run(
                "pg_ctl",
                "-D",
                self.folder / "data",
                "-o",
                options,
                "-l",
                self.folder / "log",
                "-w",
                "start",
                check=False,
            ):
                return
        raise AssertionError((self.folder / "log").read_text())

    def stop(self, how="fast"):
        self._run("pg_ctl", "-D", self.folder / "data", "-m", how, "-w", "stop", check=False)

    def close(self):
        self.stop("immediate")
        shutil.rmtree(self.folder, ignore_errors=True)

    def _run(self, program, *given, check=True):
        done = subprocess.run(
            [binaries() / program, *map(str, given)], stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL,
            stderr=subprocess.PIPE, text=True, cwd="/", timeout=120, **self.as_user,
        )  # fmt: skip
        assert not check or done.returncode == 0, done.stderr
        return done.returncode == 0

    def url(self, name):
        return f"postgresql+psycopg://{ADMIN}@127.0.0.1:{self.port}/{name}"

    def ask(self, statement, name=ADMIN):
        """Ask one database, outside of any transaction; what it answers, if anything."""
        import psycopg

        with psycopg.connect(self.url(name).replace("+psycopg", ""), autocommit=True) as connection:
            done = connection.execute(statement)
            return done.fetchall() if done.description else None

    def place(self, folder, like=None):
        """A database of its own, empty or like another one."""
        name = f"book_{next(self._names)}"
        self.ask(f"CREATE DATABASE {name}" + (f" TEMPLATE {like.name}" if like else ""))
        return OnServer(self.url(name), folder)

    def drop(self, place):
        self.ask(f"DROP DATABASE IF EXISTS {place.name} WITH (FORCE)")
