"""Serve a fresh workshop in a process of its own, for benchmarks."""

from __future__ import annotations

import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx


@contextmanager
def serving(data: Path) -> Iterator[str]:
    """The address of the served workshop."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    command = [str(Path(sys.executable).with_name("anvilsong")), "demo"]
    process = subprocess.Popen(
        command,
        env=os.environ | {"ANVILSONG_DATA": str(data), "ANVILSONG_PORT": str(port)},
        stdout=subprocess.DEVNULL,
    )
    address = f"http://127.0.0.1:{port}"
    try:
        for _ in range(200):
            try:
                httpx.get(f"{address}/healthz").raise_for_status()
                break
            except httpx.HTTPError:
                time.sleep(0.1)
        yield address
    finally:
        process.terminate()
        process.wait(10)
