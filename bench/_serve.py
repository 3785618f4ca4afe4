"""Serve a workshop in a process of its own, for benchmarks."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx

COMMAND = str(Path(sys.executable).with_name("anvilsong"))

# A shop's server finds its modules compiled by its last start. So does each server here, and each peer,
# also where the caller's environment forbids writing them.
os.environ.pop("PYTHONDONTWRITEBYTECODE", None)
os.environ["PYTHONPYCACHEPREFIX"] = str(Path(tempfile.gettempdir()) / "anvilsong-bench-compiled")


def free_port() -> int:
    """A port that nobody listens on."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return int(free.getsockname()[1])


def start(data: Path, port: int, what: str = "demo", log: Path | None = None) -> subprocess.Popen[bytes]:
    """The server as a process; its errors go to ``log``."""
    errors = log.open("ab") if log else subprocess.DEVNULL
    environment = os.environ | {"ANVILSONG_DATA": str(data), "ANVILSONG_PORT": str(port)}
    return subprocess.Popen([COMMAND, what], env=environment, stdout=subprocess.DEVNULL, stderr=errors)


def wait_up(address: str, seconds: float = 60.0, process: subprocess.Popen[bytes] | None = None) -> bool:
    """Whether the server answers within some seconds, and before its process ends."""
    until = time.monotonic() + seconds
    while time.monotonic() < until and (process is None or process.poll() is None):
        try:
            httpx.get(f"{address}/healthz", timeout=2).raise_for_status()
            return True
        except httpx.HTTPError:
            time.sleep(0.05)
    return False


def memory_mb(process: subprocess.Popen[bytes]) -> float:
    """The most memory a process has held, MB."""
    status = Path(f"/proc/{process.pid}/status").read_text()
    return int(status.split("VmHWM:")[1].split()[0]) / 1000


@contextmanager
def serving(data: Path, log: Path | None = None) -> Iterator[str]:
    """The address of the served workshop."""
    port = free_port()
    process = start(data, port, log=log)
    address = f"http://127.0.0.1:{port}"
    try:
        wait_up(address)
        serving.process = process  # type: ignore[attr-defined]
        yield address
    finally:
        process.send_signal(signal.SIGTERM)
        process.wait(10)
