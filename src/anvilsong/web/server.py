"""The server: binds, says where it is, and ends in time."""

from __future__ import annotations

import asyncio
import io
import logging
import os
import socket
import sys
import threading
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

import segno
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from anvilsong import work
from anvilsong.config import Config
from anvilsong.core.errors import CannotRead
from anvilsong.core.said import Words, in_units
from anvilsong.core.words import sentence
from anvilsong.store.database import open_database
from anvilsong.store.files import make_private
from anvilsong.web.app import create_app
from anvilsong.web.door import fresh_passphrase, lock_of, set_passphrase
from anvilsong.web.door.addresses import addresses
from anvilsong.web.door.certificate import certificate_of

GRACEFUL_S, LATEST_S = 2.0, 4.0
LONGEST_QUEUE = 512
MOST_MESSAGE_BYTES, PING_S = 2048, 15.0  # of a socket: the longest message, and how soon a silence is noticed
# How long a computing thread may hold the others up: short, so that answers that need no computing never
# wait.
TURN_S = 0.0005


class PatientProtocol(H11Protocol):
    """HTTP/1.1 that drops who opens a connection and never finishes the head of a request."""

    head_within_s = 20.0
    _head_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._arm()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        is_socket = self.transport.get_protocol() is not self  # which its own pings watch from now on
        if is_socket or (self.cycle is not None and not self.cycle.response_complete):
            self._disarm()
        elif self._head_timer is None:
            self._arm()

    def connection_lost(self, exc: Exception | None) -> None:
        self._disarm()
        super().connection_lost(exc)

    def _arm(self) -> None:
        self._head_timer = self.loop.call_later(self.head_within_s, self._drop)

    def _disarm(self) -> None:
        if self._head_timer is not None:
            self._head_timer.cancel()
            self._head_timer = None

    def _drop(self) -> None:
        self._head_timer = None
        if self.cycle is None or self.cycle.response_complete:
            self.transport.close()


def bound(config: Config) -> socket.socket:
    """A listening socket on the wanted address.

    Raises
    ------
    CannotRead : the address is taken, or not this machine's
    """
    family = socket.AF_INET6 if ":" in config.host else socket.AF_INET
    # Named as TCP, so that asyncio sends small answers at once: else each waits 40 ms for the other side's
    # acknowledgement.
    listening = socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listening.bind((config.host, config.port))
        listening.listen(
            LONGEST_QUEUE
        )  # who reads the address may open it at once, and waits until we are ready
    except OSError as error:
        listening.close()
        other = config.port + 1 if config.port < 65535 else 8765
        why = sentence("web.choose_another_port", why=error.strerror, port=other)
        raise CannotRead(f"The address {config.host}:{config.port}", why) from None
    return listening


def noticed_other(data: Path, address: str) -> tuple[Words, Any]:
    """The address of another server on the same file, or nothing; and what must be kept open so that others
    notice this one.
    """
    try:
        import fcntl
    except ImportError:  # a system without such locks
        return "", None
    mark = data.with_name(f".{data.name}.server")
    try:
        file = make_private(mark).open("a+", encoding="utf-8")
    except OSError:
        return "", None
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        file.seek(0)
        return file.read(200).strip() or sentence("web.address_own"), file
    file.truncate(0)
    file.write(address)
    file.flush()
    return "", file


def run(config: Config, say: Callable[[str], None]) -> None:
    """Serve until told to stop; then end within seconds, whatever clients do."""
    sys.setswitchinterval(TURN_S)
    open_database(config.data).dispose()  # what is wrong with the file is said before anything is served
    listening = bound(config)
    address = addresses(config)[0] if config.asks_who else f"{config.scheme}://{config.host}:{config.port}"
    other, mark = noticed_other(config.data, address) if isinstance(config.data, Path) else ("", None)
    if other:
        say(in_units(sentence("web.another_anvilsong_already_serves", other=other)))
    if config.asks_who:
        _tell_the_shop(config, say)
    certificate = certificate_of(config.beside) if config.https else None
    say(f"Anvilsong: {address}  (database {config.data})")
    PatientProtocol.head_within_s = config.whole_request_within_s
    options = uvicorn.Config(
        create_app(config),
        ssl_keyfile=certificate.key if certificate else None,
        ssl_certfile=certificate.chain if certificate else None,
        http=PatientProtocol,
        ws="websockets-sansio",
        ws_max_size=MOST_MESSAGE_BYTES,
        ws_ping_interval=PING_S,
        ws_ping_timeout=PING_S,
        ws_per_message_deflate=False,
        log_level="warning",
        timeout_graceful_shutdown=int(GRACEFUL_S),
    )
    logging.getLogger("uvicorn.error").addFilter(_is_fault)
    server = _Server(options)
    threading.Thread(target=_end_in_time, args=(server,), daemon=True).start()
    with suppress(KeyboardInterrupt):
        server.run(sockets=[listening])
    if mark is not None:
        mark.close()
    # A thread that is still computing for somebody who was given up must not keep the program.
    os._exit(0)


def _tell_the_shop(config: Config, say: Callable[[str], None]) -> None:
    """How other devices get in: every address, the first as a code too, and a passphrase where none was set.

    Raises
    ------
    CannotRead : what is kept of the passphrase is damaged
    """
    for each in addresses(config):
        say(in_units(sentence("web.on_other_devices", address=each)))
    if lock_of(config.beside) is None:
        words = fresh_passphrase()
        set_passphrase(config.beside, words)
        say(in_units(sentence("web.passphrase_invented", words=words)))
    else:
        say(in_units(sentence("web.passphrase_as_set")))
    if sys.stdout.isatty():  # in a log it would be noise
        code = io.StringIO()
        segno.make(addresses(config)[0], error="m").terminal(code, compact=True)
        say(code.getvalue())


class _Server(uvicorn.Server):
    """A server that takes its heavy work with it when it ends."""

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        await super().shutdown(sockets)
        await asyncio.to_thread(work.close)


def _is_fault(record: logging.LogRecord) -> bool:
    """Whether a line of the log is about a fault: a request that the end of the server cuts short is none."""
    return record.exc_info is None or not isinstance(record.exc_info[1], asyncio.CancelledError)


def _end_in_time(server: uvicorn.Server) -> None:
    asked = threading.Event()
    while not server.should_exit:
        asked.wait(0.1)
    asked.wait(LATEST_S)
    os._exit(0)
