"""The shop's passphrase. Beside the logbook lies a file, readable by its owner alone, with the passphrase's
hash (argon2id) and the secret that visits are signed with. A new passphrase draws a new secret, so that it
ends every visit. A backup of the logbook carries neither.
"""

from __future__ import annotations

import json
import os
import secrets
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.files import aside, make_private

if TYPE_CHECKING:
    from argon2 import PasswordHasher

LEAST_LETTERS, MOST_LETTERS = 10, 200
# No letter that is mistaken for another on a screen seen from a bench.
LETTERS = "abcdefghjkmnpqrstuvwxyz23456789"
GROUPS, A_GROUP = 3, 4


@dataclass(frozen=True)
class Lock:
    """What is kept of a passphrase: its hash, and the secret that signs visits."""

    hash: str
    secret: str

    def fits(self, given: str) -> bool:
        """Whether this is the passphrase. It takes a tenth of a second of computing, on purpose."""
        from argon2.exceptions import InvalidHashError, VerificationError

        try:
            return _hasher().verify(self.hash, _plain(given))
        except (VerificationError, InvalidHashError):
            return False


def _hasher() -> PasswordHasher:
    from argon2 import PasswordHasher

    return PasswordHasher(time_cost=3, memory_cost=32 * 1024, parallelism=1)


def _plain(words: str) -> str:
    """What counts of a passphrase: its letters and figures; capitals, spaces and dashes, as telephones put
    them, do not.
    """
    return "".join(letter for letter in words.lower() if letter.isalnum())


def lock_file(data: Path) -> Path:
    """Where the lock of a logbook lies."""
    return data.with_name(f".{data.name}.shop")


def lock_of(data: Path) -> Lock | None:
    """The lock of a logbook; None when no passphrase was ever set.

    Raises
    ------
    CannotRead : the file is damaged; a new passphrase replaces it
    """
    place = lock_file(data)
    try:
        kept = json.loads(place.read_text(encoding="utf-8"))
        lock = Lock(str(kept["hash"]), str(kept["secret"]))
    except FileNotFoundError:
        return None
    except (ValueError, KeyError, TypeError, RecursionError):
        raise CannotRead(str(place), sentence("web.set_passphrase_anew")) from None
    if len(lock.secret) < 32:
        raise CannotRead(str(place), sentence("web.set_passphrase_anew"))
    return lock


def set_passphrase(data: Path, words: str) -> Lock:
    """Set the passphrase; every visit ends.

    Raises
    ------
    BadInput : too short to keep a neighbour out, or too long
    """
    plain = _plain(words)
    if not LEAST_LETTERS <= len(plain) <= MOST_LETTERS:
        allowed = sentence("web.passphrase_of_letters", least=LEAST_LETTERS, most=MOST_LETTERS)
        raise BadInput.one("passphrase", sentence("web.letters_given", letters=len(plain)), allowed)
    lock = Lock(_hasher().hash(plain), secrets.token_hex(32))
    place = lock_file(data)
    place.parent.mkdir(parents=True, exist_ok=True)
    made = make_private(aside(data, "part"))
    with made.open("w", encoding="utf-8") as file:
        json.dump({"hash": lock.hash, "secret": lock.secret}, file)
        file.flush()
        os.fsync(file.fileno())
    os.replace(made, place)
    return lock


def fresh_passphrase() -> str:
    """A passphrase that nobody guesses (59 bits), in groups that are easily read out and typed."""
    return "-".join("".join(secrets.choice(LETTERS) for _ in range(A_GROUP)) for _ in range(GROUPS))
